import { useEffect, type ReactNode } from "react";
import { useParams } from "react-router";
import type { BenchState } from "../../api/client";
import { currentHookup } from "../../parts/current";
import { Failed, Loading } from "../../parts/states";
import { Choose } from "./Choose";
import { HookupBar } from "./HookupBar";
import { Standing } from "./Outcome";
import { useBench, type Bench } from "./useBench";

export type At = "loudness" | "feel" | "capture";
type Inside = (bench: Bench, state: BenchState) => ReactNode;

function One({ id, at, children }: { id: string; at: At; children: Inside }) {
  const bench = useBench(id);
  const { state } = bench;
  useEffect(() => {
    if (state) currentHookup.set(id);
  }, [id, state]);
  if (bench.query.error) return <Failed error={bench.query.error} retry={() => void bench.query.refetch()} />;
  if (!state) return <Loading what="the hook-up" />;
  return (
    <Standing value={{ hookup: id, saves: state.saves, held: [] }}>
      <div className="flex h-full flex-col overflow-y-auto lg:overflow-hidden">
        <HookupBar bench={bench} state={state} at={at} />
        {children(bench, state)}
      </div>
    </Standing>
  );
}

/** A section that works on the hook-up of the Bench: its verdict, name and undo above, the section's own below. */
export function OfHookup({ at, children }: { at: At; children: Inside }) {
  const { hookupId } = useParams();
  return hookupId ? (
    <One key={hookupId} id={hookupId} at={at}>
      {children}
    </One>
  ) : (
    <Choose at={at} />
  );
}
