/** A time of day, typed: 24 hours, whatever the browser would make of it. */
export function ClockField({
  label,
  value,
  onValue,
}: {
  label: string;
  value: string;
  onValue: (next: string) => void;
}) {
  return (
    <input
      aria-label={label}
      inputMode="numeric"
      required
      maxLength={5}
      pattern="([01]?[0-9]|2[0-3]):[0-5][0-9]"
      title="A time from 00:00 to 23:59"
      placeholder="21:00"
      value={value}
      onChange={(event) => onValue(event.target.value)}
      className="w-[58px] rounded-md border border-line bg-sheet px-1.5 py-1 text-center"
    />
  );
}
