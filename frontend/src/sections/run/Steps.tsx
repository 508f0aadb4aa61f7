import { Check } from "lucide-react";
import { Mark } from "../../parts/Mark";
import type { StepState } from "./useRun";

function StepLine({
  step,
  active,
  onTick,
  onGo,
}: {
  step: StepState;
  active: boolean;
  onTick: (done: boolean) => void;
  onGo: () => void;
}) {
  const said = step.reading?.held.answer;
  return (
    <li className={`flex items-start gap-2 rounded-md px-1.5 py-1 ${active ? "bg-shoal" : ""}`}>
      <button
        type="button"
        role="checkbox"
        aria-checked={step.done}
        aria-label={`${step.step.text}: done`}
        onClick={() => onTick(!step.done)}
        className={`flex size-[24px] shrink-0 items-center justify-center rounded border-[1.5px] ${step.done ? "border-ok bg-ok text-sheet" : "border-ink bg-sheet"}`}
      >
        {step.done && <Check size={16} strokeWidth={3} />}
      </button>
      <button
        type="button"
        data-step
        onClick={onGo}
        className={`min-h-[24px] min-w-0 text-left ${step.done ? "text-ink-2" : ""}`}
      >
        {step.step.text}
        <span className="hidden text-[12px] text-ink-2 print:block">{step.step.expect}</span>
        {step.step.reads && <span className="hidden text-[12px] print:block">Read: ____________</span>}
      </button>
      {(said === "stop" || said === "look") && (
        <Mark severity={said === "stop" ? "stop" : "caution"} size={18} />
      )}
    </li>
  );
}

/** All steps by phase, the one at hand marked. */
export function Steps({
  steps,
  current,
  onGo,
  onTick,
}: {
  steps: StepState[];
  current?: StepState;
  onGo: (id: string) => void;
  onTick: (id: string, done: boolean) => void;
}) {
  return [...new Set(steps.map((s) => s.step.phase))].map((phase) => {
    const some = steps.filter((s) => s.step.phase === phase);
    const left = some.filter((s) => !s.done).length;
    return (
      <section key={phase} className="pt-2">
        <h2 className="flex justify-between px-1.5 text-[13px] font-bold">
          {some[0]!.phase_name}
          <span className="font-normal text-ink-2">{left ? `${left} of ${some.length} left` : "done"}</span>
        </h2>
        <ol>
          {some.map((step) => (
            <StepLine
              key={step.step.id}
              step={step}
              active={step === current}
              onGo={() => onGo(step.step.id)}
              onTick={(done) => onTick(step.step.id, done)}
            />
          ))}
        </ol>
      </section>
    );
  });
}
