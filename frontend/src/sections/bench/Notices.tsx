import { useNavigate } from "react-router";
import type { BenchState } from "../../api/client";
import { Button } from "../../parts/controls";
import { Failed } from "../../parts/states";
import type { At } from "./OfHookup";
import type { Bench } from "./useBench";

/** What stands in the way of an edit: the amp is on, another window came first, or it was refused. */
export function Notices({ bench, state, at }: { bench: Bench; state: BenchState; at: "bench" | At }) {
  const go = useNavigate();
  return (
    <>
      {state.is_on && (
        <p
          role="status"
          className="shrink-0 border-b border-line bg-shoal px-5 py-1.5 text-[13px] font-semibold"
        >
          Marked as switched on: speaker leads, taps and selectors stay as they are.{" "}
          <button type="button" className="underline" onClick={() => void go(`/run/${state.id}`)}>
            Go to the run sheet to switch off
          </button>
        </p>
      )}
      {bench.overtaken && (
        <div
          role="alert"
          className="flex shrink-0 flex-wrap items-center gap-3 border-b border-line bg-shoal px-5 py-2"
        >
          <b>This hook-up was changed in another window.</b> Your last change is not lost:
          <Button onClick={bench.look}>Look at it as it is now</Button>
          <Button look="main" onClick={() => void bench.keepCopy().then((made) => go(`/${at}/${made}`))}>
            Keep mine as a copy
          </Button>
        </div>
      )}
      {bench.refusal && (
        <div className="shrink-0 border-b border-line">
          <Failed error={bench.refusal} />
          <p className="px-4 pb-2">
            <Button onClick={bench.dismiss}>Understood</Button>
          </p>
        </div>
      )}
    </>
  );
}
