import { ChevronDown, Ellipsis, Eye, Map as Overview, Plus, Redo2, Search, Undo2 } from "lucide-react";
import type { BenchState } from "../../api/client";
import { Button } from "../../parts/controls";
import { Menu } from "../../parts/Menu";
import type { Bench } from "./useBench";

interface Props {
  bench: Bench;
  state: BenchState;
  overview: boolean;
  onOverview: () => void;
  onChoose: () => void;
  onAdd: () => void;
  onFind: () => void;
  onName: () => void;
  onPutAway: () => void;
}

/** Which hook-up is on the bench, and what can be done with it as a whole. */
export function Toolbar({
  bench,
  state,
  overview,
  onOverview,
  onChoose,
  onAdd,
  onFind,
  onName,
  onPutAway,
}: Props) {
  return (
    <div className="no-print flex shrink-0 flex-wrap items-center gap-x-2 gap-y-1 px-5 pt-2 pb-1 text-[13px] lg:flex-nowrap lg:[&>*:not(:first-child)]:shrink-0">
      <button
        type="button"
        onClick={onChoose}
        aria-label={`Hook-up: ${state.name}. Choose another`}
        className="flex min-w-0 items-center gap-1 rounded-md border border-line bg-sheet px-2 py-0.5 text-[14px] font-bold hover:border-ink"
      >
        <span className="truncate">{state.name}</span> <ChevronDown size={15} className="shrink-0" />
      </button>
      <Button
        look="quiet"
        className="!px-1.5"
        disabled={bench.held ? bench.held.length === 0 : !state.undo || bench.busy}
        onClick={bench.undo}
        title={`Undo ${state.undo ?? ""}`}
        aria-label={`Undo ${state.undo ?? ""}`}
      >
        <Undo2 size={15} />
      </Button>
      <Button
        look="quiet"
        className="!px-1.5"
        disabled={!state.redo || bench.busy || bench.held !== undefined}
        onClick={bench.redo}
        title={`Redo ${state.redo ?? ""}`}
        aria-label={`Redo ${state.redo ?? ""}`}
      >
        <Redo2 size={15} />
      </Button>
      <Button look="quiet" className="!px-1.5" onClick={onAdd}>
        <Plus size={15} /> Add a unit
      </Button>
      <Button
        look="quiet"
        className="!px-1.5"
        aria-pressed={bench.held !== undefined}
        onClick={() => (bench.held ? bench.letGo(false) : bench.hold())}
      >
        <Eye size={15} /> What if
      </Button>
      <Button look="quiet" className="!px-1.5" onClick={onFind}>
        <Search size={15} /> Find me one
      </Button>
      <Button look="quiet" className="!px-1.5" aria-pressed={overview} onClick={onOverview}>
        <Overview size={15} /> {overview ? "Close up" : "Overview"}
      </Button>
      <Menu
        trigger={
          <Button look="quiet" className="!px-1.5" aria-label="More for this hook-up">
            <Ellipsis size={16} />
          </Button>
        }
        items={[
          { label: "Name and notes, or a copy …", run: onName },
          { label: "Save as a file", run: () => window.location.assign(`/api/hookups/${state.id}/file`) },
          {
            label: "Save as a SPICE netlist",
            run: () => window.location.assign(`/api/hookups/${state.id}/spice`),
          },
          { label: "Put away …", run: onPutAway },
        ]}
      />
    </div>
  );
}
