import type { Take } from "../../api/client";

/** The day of the newest take shown as a watch of 24 hours, each of its takes a mark on it. */
export function DayStrip({
  takes,
  current,
  onOpen,
}: {
  takes: Take[];
  current?: number;
  onOpen: (id: number) => void;
}) {
  const newest = takes[0];
  if (!newest) return null;
  const day = new Date(newest.at).toDateString();
  const of = takes.filter((t) => new Date(t.at).toDateString() === day);
  const at = (iso: string) => {
    const d = new Date(iso);
    return (100 * (d.getHours() + d.getMinutes() / 60)) / 24;
  };
  return (
    <div
      className="shrink-0 border-b border-line bg-sheet px-4 pt-2 pb-1"
      role="group"
      aria-label={`Takes of ${day}`}
    >
      <p className="text-[12px] text-ink-2">
        {new Date(newest.at).toLocaleDateString("en-GB", { weekday: "long", day: "numeric", month: "long" })},{" "}
        {of.length} take
        {of.length === 1 ? "" : "s"}
      </p>
      <div className="relative mt-1 h-[34px]">
        <div className="absolute inset-x-0 top-[14px] border-t-2 border-water" />
        {[0, 3, 6, 9, 12, 15, 18, 21, 24].map((hour) => (
          <span
            key={hour}
            style={{ left: `${(100 * hour) / 24}%` }}
            className={`absolute top-[10px] h-[9px] border-l border-ink-2 text-[11px] text-ink-2`}
          >
            <span
              className={`absolute top-[9px] ${hour === 24 ? "right-0" : hour === 0 ? "left-0" : "-translate-x-1/2"}`}
            >
              {String(hour).padStart(2, "0")}
            </span>
          </span>
        ))}
        {of.map((take) => (
          <button
            key={take.id}
            type="button"
            aria-label={`Take ${take.number}, ${take.note.name}`}
            title={`${take.number}. ${take.note.name}`}
            style={{ left: `${at(take.at)}%` }}
            onClick={() => onOpen(take.id)}
            className={`absolute top-[6px] size-[16px] -translate-x-1/2 rounded-full border-2 border-sheet ${take.id === current ? "bg-ink" : "bg-deep"}`}
          />
        ))}
      </div>
    </div>
  );
}
