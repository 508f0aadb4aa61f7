import { Check } from "lucide-react";
import { Button, Key } from "../../parts/controls";
import { Reading } from "./Reading";
import type { Run, StepState } from "./useRun";

/** One step, to be read from two metres: what is done, and what should be seen. */
export function StepAtHand({
  run,
  step,
  held,
  onDone,
}: {
  run: Run;
  step: StepState;
  held: boolean;
  onDone: () => void;
}) {
  const { text, expect, wait } = step.step;
  return (
    <div>
      <p className="text-[17px] text-ink-2">{step.phase_name}</p>
      <h2 className="mt-1 max-w-[30ch] text-[clamp(30px,3.6vw,52px)] leading-[1.12] font-bold">{text}</h2>
      <p role="status" className="sr-only">
        {step.done ? "Done" : "Next"}: {text}
      </p>
      {expect && (
        <p className="mt-4 max-w-[46ch] text-[clamp(21px,2.2vw,30px)] leading-[1.25] text-deep">
          <span className="block text-[14px] text-ink-2">What you should see</span>
          {expect}
        </p>
      )}
      <Reading key={step.step.id} run={run} step={step} />
      <p className="mt-6 flex flex-wrap items-center gap-3">
        <Button
          look="main"
          className="!px-6 !py-3 !text-[19px]"
          disabled={step.done || held}
          onClick={onDone}
        >
          <Check size={21} /> {step.done ? "Done" : "Done, next"}
        </Button>
        {step.done && !held && (
          <Button onClick={() => run.tick.mutate({ step: step.step.id, done: false })}>
            Not done after all
          </Button>
        )}
        <span className="hidden items-center gap-1.5 text-ink-2 sm:flex touch:hidden">
          <Key>x</Key> or space does it, <Key>j</Key> <Key>k</Key> other steps
        </span>
      </p>
      {wait && !step.done && (
        <p className="mt-2 text-[15px] text-ink-2">Ticking it begins the wait: it is counted above.</p>
      )}
      {held && (
        <p className="mt-2 text-[15px] text-ink-2">This comes after the amp is marked as switched on.</p>
      )}
    </div>
  );
}
