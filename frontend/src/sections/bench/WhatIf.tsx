import { type BenchState, type Change } from "../../api/client";
import { Button } from "../../parts/controls";
import { Failed } from "../../parts/states";
import type { Bench } from "./useBench";

/** A held change in a few words. */
function told(change: Change, state: BenchState): string {
  const unit = (id: string) => state.units.find((u) => u.id === id)?.name ?? id;
  const lead = (id: string) => state.links.find((k) => k.lead === id)?.name ?? id;
  switch (change.op) {
    case "set": {
      const control = state.units
        .find((u) => u.id === change.unit)
        ?.controls.find((c) => c.control.id === change.control)?.control;
      const option = control?.options.find((o) => o.value === change.value)?.label;
      const value = typeof change.value === "boolean" ? (change.value ? "on" : "off") : change.value;
      return `${unit(change.unit)}: ${control?.label ?? change.control} ${option ?? String(value).replace("-", "−")} ${control?.unit ?? ""}`.trim();
    }
    case "add":
      return `${unit(change.unit)} added`;
    case "remove":
      return `${unit(change.unit)} taken out`;
    case "connect":
      return `${lead(change.lead)} into ${unit(change.a.unit)}`;
    case "measure":
      return `way of ${lead(change.lead)}`;
    case "disconnect":
      return `${lead(change.lead)} put away`;
    default:
      return "name and notes";
  }
}

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
          : `${held.length} held: ${held.map((c) => told(c, state)).join("; ")}`}
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
