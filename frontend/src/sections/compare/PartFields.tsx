import { useEffect, useState } from "react";
import { fixed } from "../../parts/table";
import { typed } from "../../parts/typed";
import type { Part } from "./useComparison";

/** The least and the most that is played over and over, s. */
export const LEAST_S = 0.3;
export const MOST_S = 30;

/** What is wrong with a part that was typed, in words. */
function wrongWith(start: unknown, stop: unknown, length: number, least: number) {
  if (typeof start !== "number" || typeof stop !== "number") return "Two numbers, in seconds.";
  if (start < 0 || stop > length) return `From 0 to ${fixed(length, 1)} s.`;
  if (stop - start < least || stop - start > MOST_S) return `${least} to ${MOST_S} s long.`;
  return undefined;
}

/** The part that is played, as it can be typed. */
export function PartFields({
  part,
  length,
  least = LEAST_S,
  onPart,
}: {
  part: Part;
  length: number;
  least?: number;
  onPart: (part: Part) => void;
}) {
  const [texts, setTexts] = useState<[string, string]>();
  useEffect(() => setTexts(undefined), [part.start, part.stop]);
  const shown = texts ?? [fixed(part.start, 2), fixed(part.stop, 2)];
  const [start, stop] = shown.map(typed);
  const wrong = texts && wrongWith(start, stop, length, least);
  const keep = () => {
    if (texts && !wrong) onPart({ start: start as number, stop: stop as number });
  };
  return (
    <span className="flex items-center gap-1">
      {(["from", "to"] as const).map((name, i) => (
        <label key={name} className="flex items-center gap-1">
          {name}
          <input
            aria-label={`Played ${name}, s`}
            aria-invalid={Boolean(wrong)}
            inputMode="decimal"
            className="h-[24px] w-[56px] rounded border border-line bg-sheet px-1 text-right aria-[invalid=true]:border-stop"
            value={shown[i]}
            onChange={(event) =>
              setTexts(i === 0 ? [event.target.value, shown[1]!] : [shown[0]!, event.target.value])
            }
            onBlur={keep}
            onKeyDown={(event) => {
              if (event.key === "Enter") keep();
              if (event.key === "Escape") setTexts(undefined);
            }}
          />
        </label>
      ))}
      s
      {wrong && (
        <span role="alert" className="font-medium text-stop">
          {wrong}
        </span>
      )}
    </span>
  );
}
