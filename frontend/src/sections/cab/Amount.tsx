import { useEffect, useState } from "react";
import { fixed } from "../../parts/table";
import { typed } from "../../parts/typed";

/** A number that is typed: kept where it lies within its bounds, told where it does not. */
export function Typed({
  label,
  unit,
  value,
  digits,
  bounds,
  onValue,
}: {
  label: string;
  unit: string;
  value: number;
  digits: number;
  bounds: readonly [number, number];
  onValue: (next: number) => void;
}) {
  const [text, setText] = useState<string>();
  useEffect(() => setText(undefined), [value]);
  const found = text === undefined ? value : typed(text);
  const wrong = typeof found !== "number" || found < bounds[0] || found > bounds[1];
  const keep = () => {
    if (text !== undefined && !wrong && found !== value) onValue(found);
    else if (!wrong) setText(undefined);
  };
  return (
    <label className="flex items-center gap-1">
      <input
        aria-label={`${label}, ${unit}`}
        aria-invalid={wrong}
        title={wrong ? `${label}: ${fixed(bounds[0], 0)} to ${fixed(bounds[1], 0)} ${unit}.` : undefined}
        inputMode="decimal"
        className="h-[24px] w-[58px] rounded border border-line bg-sheet px-1 text-right text-[12.5px] aria-[invalid=true]:border-stop"
        value={text ?? fixed(value, digits)}
        onChange={(event) => setText(event.target.value)}
        onBlur={keep}
        onKeyDown={(event) => {
          if (event.key === "Enter") keep();
          if (event.key === "Escape") setText(undefined);
        }}
      />
      <span className="text-ink-2">{unit}</span>
      {wrong && (
        <span role="alert" className="text-[12px] font-medium text-stop">
          {`${fixed(bounds[0], 0)} to ${fixed(bounds[1], 0)}`}
        </span>
      )}
    </label>
  );
}

/** A slider that is let go before its value counts. */
export function Slide({
  label,
  value,
  bounds,
  step,
  said,
  className,
  onValue,
}: {
  label: string;
  value: number;
  bounds: readonly [number, number];
  step: number;
  said: (value: number) => string;
  className: string;
  onValue: (next: number) => void;
}) {
  const [now, setNow] = useState<number>();
  useEffect(() => setNow(undefined), [value]);
  const keep = () => now !== undefined && now !== value && onValue(now);
  return (
    <input
      type="range"
      aria-label={label}
      aria-valuetext={said(now ?? value)}
      title={said(now ?? value)}
      min={bounds[0]}
      max={bounds[1]}
      step={step}
      value={now ?? value}
      onChange={(event) => setNow(Number(event.target.value))}
      onPointerUp={keep}
      onKeyUp={keep}
      onBlur={keep}
      className={`h-[24px] accent-[var(--deep)] ${className}`}
    />
  );
}
