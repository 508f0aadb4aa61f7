import { Bell, BellOff, X } from "lucide-react";
import type { RunState } from "../../api/client";
import { Button } from "../../parts/controls";
import { left, useTimers } from "../../parts/useTimers";

/** Quiet hours further ahead than this are no concern yet. */
const AHEAD_MIN = 180;

/** What runs by the clock, and the quiet hours ahead, beside the step at hand. */
export function Timers({ state }: { state: RunState }) {
  const { running, stop, sounds, turn } = useTimers();
  const quiet = state.quiet.filter((each) => each.minutes <= AHEAD_MIN);
  if (running.length === 0 && quiet.length === 0) return null;
  return (
    <section
      aria-label="By the clock"
      className="no-print shrink-0 border-b border-line bg-paper px-4 py-1.5"
    >
      <ul className="flex flex-wrap items-stretch gap-2">
        {running.map((timer) => {
          const over = timer.left !== null && timer.left <= 0;
          return (
            <li
              key={timer.id}
              className={`flex items-center gap-2 rounded-lg border-[1.5px] py-1 pr-1 pl-3 ${over || timer.left === null ? "border-caution bg-sheet" : "border-line bg-sheet"}`}
            >
              <span
                role={over ? "alert" : "timer"}
                aria-label={over ? `Over: ${timer.label}` : timer.label}
                className="text-[21px] font-bold tabular-nums"
              >
                {timer.left === null ? "?" : over ? "Now" : left(timer.left)}
              </span>
              <span className="max-w-[34ch] text-[13px] leading-tight">
                {timer.said || timer.label}
                {timer.hookup && timer.hookup !== state.hookup && (
                  <span className="block text-ink-2">{timer.hookup_name}</span>
                )}
              </span>
              <Button
                look="quiet"
                className="!px-1"
                aria-label={`Take away: ${timer.label}`}
                onClick={() => stop.mutate(timer)}
              >
                <X size={15} />
              </Button>
            </li>
          );
        })}
        {quiet.map((each) => (
          <li
            key={each.words}
            className={`flex items-center gap-2 rounded-lg border-[1.5px] bg-sheet px-3 py-1 ${each.minutes < 60 ? "border-caution" : "border-line"}`}
          >
            <span className="text-[21px] font-bold tabular-nums">
              {each.minutes <= 0 ? "Quiet" : left(60 * each.minutes).replace(/:\d\d$/, " min")}
            </span>
            <span className="max-w-[44ch] text-[13px] leading-tight">
              {each.minutes <= 0 ? "now: " : "until quiet hours: "}
              {each.words}
            </span>
          </li>
        ))}
        {running.length > 0 && (
          <li className="ml-auto flex items-center">
            <Button look="quiet" aria-pressed={sounds} onClick={turn}>
              {sounds ? <Bell size={15} /> : <BellOff size={15} />} {sounds ? "Tone at the end" : "No tone"}
            </Button>
          </li>
        )}
      </ul>
    </section>
  );
}
