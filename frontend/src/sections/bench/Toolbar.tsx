import { Ellipsis, Eye, Map as Overview, Plus, Search } from "lucide-react";
import type { BenchState } from "../../api/client";
import { Button } from "../../parts/controls";
import { Menu } from "../../parts/Menu";
import type { Bench } from "./useBench";
import { WhichHookup } from "./WhichHookup";
import { saveFile } from "../../parts/sharing/save";

interface Props {
  bench: Bench;
  state: BenchState;
  overview: boolean;
  onOverview: () => void;
  onChoose: () => void;
  onAdd: () => void;
  onFind: () => void;
  onName: () => void;
  onScenes: () => void;
  onOtherAmp: () => void;
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
  onScenes,
  onOtherAmp,
  onPutAway,
}: Props) {
  return (
    <div className="no-print flex shrink-0 flex-wrap items-center gap-x-2 gap-y-1 px-5 pt-2 pb-1 text-[13px] lg:flex-nowrap lg:[&>*:not(:first-child)]:shrink-0">
      <WhichHookup bench={bench} state={state} onChoose={onChoose} />
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
          { label: "Scenes …", run: onScenes },
          { label: "The same with another amp …", run: onOtherAmp },
          { label: "Save as a file", run: () => void saveFile(`/api/hookups/${state.id}/file`) },
          {
            label: "Save as a SPICE netlist",
            run: () => void saveFile(`/api/hookups/${state.id}/spice`),
          },
          { label: "Put away …", run: onPutAway },
        ]}
      />
    </div>
  );
}
