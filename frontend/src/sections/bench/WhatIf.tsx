import type { BenchState } from "../../api/client";
import { Button } from "../../parts/controls";
import { Failed } from "../../parts/states";
import type { Bench } from "./useBench";

/** What is being tried out: the held changes, and whether to keep or to drop them. */
export function WhatIf({ bench, state }: { bench: Bench; state: BenchState }) {
  const held = bench.held ?? [];
  return (
    <section
      aria-label="What if"
      className="flex shrink-0 flex-wrap items-center gap-x-3 gap-y-1 border-b border-line bg-shoal px-5 py-1.5 text-[13px]"
    >
      <b>What if</b>
      <span role="status" className="min-w-0 flex-1 truncate">
        {held.length === 0
          ? "Change anything: nothing is kept until you say so."
          : [`${held.length} held`, ...(state.held.length ? [state.held.join("; ")] : [])].join(": ")}
      </span>
      {bench.refused && <Failed error={bench.refused} />}
      <Button look="main" disabled={held.length === 0 || Boolean(bench.refused)} onClick={bench.keep}>
        Keep
      </Button>
      {held.length > 1 && <Button onClick={() => bench.letGo(true)}>Drop the last</Button>}
      <Button onClick={() => bench.letGo(false)}>{held.length ? "Drop" : "Close"}</Button>
    </section>
  );
}
