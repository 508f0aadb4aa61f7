import { useState } from "react";
import { Link } from "react-router";
import type { BenchState } from "../../api/client";
import { HookupMenu } from "./HookupMenu";
import { Notices } from "./Notices";
import type { At } from "./OfHookup";
import type { Bench } from "./useBench";
import { Verdict } from "./Verdict";
import { WhichHookup } from "./WhichHookup";

/** Verdict, name and undo of the hook-up that another section works on; the same one as on the Bench. */
export function HookupBar({ bench, state, at }: { bench: Bench; state: BenchState; at: At }) {
  const [menu, setMenu] = useState(false);
  return (
    <>
      <Verdict verdict={state.analysis.verdict} facts={state.analysis.facts} />
      <div className="no-print flex shrink-0 flex-wrap items-center gap-x-3 gap-y-1 border-b border-line px-5 py-1.5 text-[13px]">
        <WhichHookup bench={bench} state={state} onChoose={() => setMenu(true)} />
        <Link to={`/bench/${state.id}`} className="ml-auto text-deep underline">
          Go to the Bench
        </Link>
      </div>
      <Notices bench={bench} state={state} at={at} />
      {menu && <HookupMenu at={at} onClose={() => setMenu(false)} />}
    </>
  );
}
