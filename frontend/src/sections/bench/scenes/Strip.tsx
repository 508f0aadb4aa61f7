import { SlidersHorizontal } from "lucide-react";
import type { BenchState, Change } from "../../../api/client";
import { Button } from "../../../parts/controls";
import { VerdictMark } from "../../../parts/Mark";

/** The scenes of a hook-up in a row: each with its verdict, and put on when it is pressed. */
export function SceneStrip({
  state,
  onChange,
  onTable,
}: {
  state: BenchState;
  onChange: (changes: Change[]) => void;
  onTable: () => void;
}) {
  return (
    <section
      aria-label="Scenes"
      className="no-print flex shrink-0 flex-wrap items-center gap-1.5 px-5 pb-1 text-[13px]"
    >
      <h2 className="mr-1 font-semibold">Scenes</h2>
      {state.analysis.scenes.map(({ scene, stands, verdict }) => (
        <Button
          key={scene.name}
          look={stands ? "main" : "plain"}
          aria-pressed={stands}
          className="max-w-[220px] !gap-1.5 !py-0.5"
          title={stands ? "The hook-up is set like this" : `Put on “${scene.name}”`}
          onClick={() => stands || onChange([{ op: "put_on", name: scene.name }])}
        >
          <VerdictMark severity={verdict.severity} size={14} />
          <span className="truncate">{scene.name}</span>
        </Button>
      ))}
      <Button look="quiet" className="!px-1.5" onClick={onTable}>
        <SlidersHorizontal size={14} /> Table
      </Button>
    </section>
  );
}
