import { ChevronDown, Redo2, Undo2 } from "lucide-react";
import { useState, type ReactNode } from "react";
import { Link } from "react-router";
import type { BenchState } from "../../api/client";
import { Button } from "../../parts/controls";
import { HookupMenu } from "./HookupMenu";
import { Notices } from "./Notices";
import type { Bench } from "./useBench";
import { Verdict } from "./Verdict";

/** Verdict, name and undo of the hook-up that another section works on; the same one as on the Bench. */
export function HookupBar({
  bench,
  state,
  at,
  children,
}: {
  bench: Bench;
  state: BenchState;
  at: "loudness" | "feel";
  children?: ReactNode;
}) {
  const [menu, setMenu] = useState(false);
  return (
    <>
      <Verdict verdict={state.analysis.verdict} facts={state.analysis.facts} />
      <div className="no-print flex shrink-0 flex-wrap items-center gap-x-3 gap-y-1 border-b border-line px-5 py-1.5 text-[13px]">
        <button
          type="button"
          onClick={() => setMenu(true)}
          aria-label={`Hook-up: ${state.name}. Choose another`}
          className="flex max-w-[300px] min-w-0 items-center gap-1 rounded-md border border-line bg-sheet px-2 py-0.5 text-[14px] font-bold hover:border-ink"
        >
          <span className="truncate">{state.name}</span> <ChevronDown size={15} className="shrink-0" />
        </button>
        <span className="flex">
          <Button
            look="quiet"
            className="!px-1.5"
            disabled={!state.undo || bench.busy}
            onClick={bench.undo}
            title={`Undo ${state.undo ?? ""}`}
            aria-label={`Undo ${state.undo ?? ""}`}
          >
            <Undo2 size={15} />
          </Button>
          <Button
            look="quiet"
            className="!px-1.5"
            disabled={!state.redo || bench.busy}
            onClick={bench.redo}
            title={`Redo ${state.redo ?? ""}`}
            aria-label={`Redo ${state.redo ?? ""}`}
          >
            <Redo2 size={15} />
          </Button>
        </span>
        {children}
        <Link to={`/bench/${state.id}`} className="ml-auto text-deep underline">
          Go to the Bench
        </Link>
      </div>
      <Notices bench={bench} state={state} at={at} />
      {menu && <HookupMenu at={at} onClose={() => setMenu(false)} />}
    </>
  );
}
