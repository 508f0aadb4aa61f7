import type { Schemas } from "../../api/client";
import { Button, Key } from "../../parts/controls";
import { Mark } from "../../parts/Mark";
import type { Loop } from "../../parts/sound/usePlay";
import { Outcome } from "../bench/Outcome";

type TakeSays = Schemas["TakeSays"];
type Advice = Schemas["TakeAdvice"];

/** Advice by the number key that puts it on: of what can be, the first nine. */
export function numbered(says: TakeSays[]): Advice[] {
  return says.flatMap((each) => each.advice.filter((a) => a.state === "ready")).slice(0, 9);
}

const at = (seconds: number) =>
  seconds < 60
    ? `${seconds.toFixed(2)} s`
    : `${Math.floor(seconds / 60)}:${(seconds % 60).toFixed(1).padStart(4, "0")}`;

/** What a take says, worst first: where it is heard, and what may be put on the hook-up for it. */
export function Says({
  says,
  busy,
  onGo,
  onPut,
}: {
  says: TakeSays[];
  busy: boolean;
  onGo: (place: Loop) => void;
  onPut: (advice: Advice) => void;
}) {
  const numbers = numbered(says);
  return (
    <ul className="min-h-0 flex-1 overflow-y-auto">
      {says.map(({ finding, at: places, advice }) => (
        <li
          key={`${finding.id}${finding.which}`}
          data-finding={finding.id}
          className="grid grid-cols-[22px_1fr] gap-2 border-t border-line px-4 py-2.5 first:border-t-0"
        >
          <Mark severity={finding.severity} />
          <div className="min-w-0">
            <p className="leading-[1.3] font-semibold">{finding.text}</p>
            <p className="mt-0.5 text-[13px] text-ink-2">{finding.reason}</p>
            {places.length > 0 && finding.severity !== "fine" && (
              <p className="mt-1 flex flex-wrap gap-x-2 text-[12.5px]">
                {places.slice(0, 5).map((place) => (
                  <button
                    key={place.start}
                    type="button"
                    className="min-h-[24px] text-deep underline"
                    aria-label={`Go to ${at(place.start)} and play: ${finding.text}`}
                    onClick={() => onGo(place)}
                  >
                    {at(place.start)}
                  </button>
                ))}
                {places.length > 5 && <span className="text-ink-2">and {places.length - 5} more</span>}
              </p>
            )}
            {advice.map((each) => {
              const number = numbers.indexOf(each) + 1;
              return each.state === "ready" ? (
                <div key={each.label}>
                  <Button className="mt-1.5" disabled={busy} onClick={() => onPut(each)}>
                    {each.label} {number > 0 && <Key>{number}</Key>}
                  </Button>
                  <Outcome className="mt-1" changes={each.changes} />
                </div>
              ) : (
                <p key={each.label} className="mt-1.5 text-[12.5px] text-ink-2">
                  {each.label}: {each.why}
                </p>
              );
            })}
          </div>
        </li>
      ))}
    </ul>
  );
}
