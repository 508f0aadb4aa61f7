import { useState } from "react";
import { Button, Key } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import type { Asking } from "./Question";

/** Steps put in order by taking one after the other. */
export function InOrder({ asked, onAnswer, isBusy, told }: Asking) {
  const [taken, setTaken] = useState<string[]>([]);
  const open = !asked.result && !isBusy;
  const take = (id: string) =>
    setTaken((before) => (before.includes(id) ? before.filter((each) => each !== id) : [...before, id]));
  const back = () => setTaken((before) => before.slice(0, -1));
  const whole = taken.length === asked.steps.length;
  useKeys(
    {
      ...Object.fromEntries(asked.steps.map((step, n) => [String(n + 1), () => take(step.id)])),
      Backspace: back,
      u: back,
    },
    open,
  );
  const place = (id: string) => taken.indexOf(id);
  return (
    <div className="mx-auto flex w-full max-w-[860px] flex-col gap-4 p-6">
      <ol className="flex flex-col gap-2" aria-label="Steps">
        {asked.steps.map((step, n) => (
          <li key={step.id}>
            <button
              type="button"
              disabled={!open}
              aria-pressed={place(step.id) >= 0}
              onClick={() => take(step.id)}
              className={`grid min-h-[44px] w-full grid-cols-[40px_1fr_auto] items-center gap-3 rounded-md border-[1.5px] bg-sheet px-3 py-1.5 text-left ${place(step.id) >= 0 ? "border-ink" : "border-line hover:border-ink"}`}
            >
              <b className="text-center text-[20px]">{place(step.id) >= 0 ? place(step.id) + 1 : "–"}</b>
              <span className="text-[15px]">{step.text}</span>
              {open && <Key>{n + 1}</Key>}
            </button>
          </li>
        ))}
      </ol>
      {told ?? (
        <div className="flex items-center gap-3">
          <Button
            look="main"
            disabled={!whole || !open}
            onClick={() => onAnswer({ by: "order", steps: taken })}
          >
            {whole ? "In this order" : `Take what comes ${taken.length ? "next" : "first"}`}
          </Button>
          {taken.length > 0 && (
            <Button look="quiet" onClick={back}>
              One back <Key>u</Key>
            </Button>
          )}
        </div>
      )}
    </div>
  );
}
