import { ChevronDown, Redo2, Undo2 } from "lucide-react";
import type { BenchState } from "../../api/client";
import { Button } from "../../parts/controls";
import type { Bench } from "./useBench";

/** Which hook-up it is, a way to another one, and the last step back and forth. */
export function WhichHookup({
  bench,
  state,
  onChoose,
}: {
  bench: Bench;
  state: BenchState;
  onChoose: () => void;
}) {
  const { held, busy } = bench;
  const steps = [
    {
      word: `Undo ${state.undo ?? ""}`,
      can: held ? held.length > 0 : state.undo && !busy,
      run: bench.undo,
      Icon: Undo2,
    },
    { word: `Redo ${state.redo ?? ""}`, can: !held && state.redo && !busy, run: bench.redo, Icon: Redo2 },
  ];
  return (
    <>
      <button
        type="button"
        onClick={onChoose}
        aria-label={`Hook-up: ${state.name}. Choose another`}
        className="flex max-w-full min-w-0 items-center gap-1 rounded-md border border-line bg-sheet px-2 py-0.5 text-[14px] font-bold hover:border-ink"
      >
        <span className="truncate">{state.name}</span> <ChevronDown size={15} className="shrink-0" />
      </button>
      {steps.map(({ word, can, run, Icon }) => (
        <Button
          key={word.slice(0, 4)}
          look="quiet"
          className="shrink-0 !px-1.5"
          disabled={!can}
          onClick={run}
          title={word}
          aria-label={word}
        >
          <Icon size={15} />
        </Button>
      ))}
    </>
  );
}
