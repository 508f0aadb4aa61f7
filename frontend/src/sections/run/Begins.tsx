import type { RunState } from "../../api/client";
import { Button } from "../../parts/controls";
import { short } from "../../parts/table";
import type { Run } from "./useRun";

type Stands = NonNullable<RunState["stands"]>;

function cost({ plugs, minutes, off, is_on: on }: Stands): string {
  const moved = plugs === 0 ? "no plug moves" : `${plugs} plug${plugs === 1 ? "" : "s"} to move`;
  const amp = !on ? "" : off ? ", its amp off for it" : ", its amp stays on";
  return `${moved}, about ${short(Math.max(1, Math.round(minutes)))} min${amp}`;
}

/** Where the sheet begins: with nothing plugged, or with what stands. */
export function Begins({ run, state }: { run: Run; state: RunState }) {
  const { begins, stands } = state;
  if (begins)
    return (
      <p className="no-print flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-line bg-shoal px-4 py-1.5 text-[14px]">
        <span>
          From <b>{begins.name}</b>, as its leads lie: {cost(begins)}.
        </span>
        {!state.is_on && (
          <button
            type="button"
            className="inline-flex min-h-[24px] items-center text-deep underline"
            disabled={run.begin.isPending}
            onClick={() => run.begin.mutate("")}
          >
            begin with nothing plugged instead
          </button>
        )}
      </p>
    );
  if (!stands) return null;
  return (
    <p className="no-print flex flex-wrap items-center gap-x-3 gap-y-1 border-b border-line bg-sheet px-4 py-1.5 text-[14px]">
      <span>
        <b>{stands.name}</b> {stands.is_on ? "is on" : "stands, off"}: from there {cost(stands)}.
      </span>
      <Button disabled={run.begin.isPending} onClick={() => run.begin.mutate(stands.hookup)}>
        Go on from it
      </Button>
    </p>
  );
}
