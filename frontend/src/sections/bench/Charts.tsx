import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useState } from "react";
import { answer, api, type BenchState, type Change } from "../../api/client";
import { Failed, Loading } from "../../parts/states";
import { Tabbed, TabPanel, TabRow } from "../../parts/Tabs";
import { Power } from "./Power";
import { TideLine } from "./TideLine";

const Impedance = lazy(() => import("./Impedance"));

const TABS = [
  { id: "tide", name: "Tide line" },
  { id: "impedance", name: "Impedance" },
  { id: "power", name: "Power" },
] as const;
type Tab = (typeof TABS)[number]["id"];

interface Props {
  state: BenchState;
  /** The hook-up as it stands, while changes are held. */
  before?: BenchState;
  held: Change[];
  width: number;
  height: number;
  onLight: (units: string[]) => void;
}

function useCurves(state: BenchState, changes: Change[], enabled: boolean) {
  return useQuery({
    queryKey: ["curves", state.id, state.saves, changes],
    queryFn: () =>
      answer(
        api.POST("/api/hookups/{hookup_id}/curves", {
          params: { path: { hookup_id: state.id } },
          body: { changes },
        }),
      ),
    enabled,
    placeholderData: keepPreviousData,
  });
}

/** The tabs stay while the charts below them come and go, so that the focus stays on them; each chart leaves room. */
const ROOM = <span className="inline-block w-[196px]" />;

/** The pictures under the hook-up: the tide line, what the amp sees over frequency, who takes the power. */
export function Charts({ state, before, held, width, height, onLight }: Props) {
  const [tab, setTab] = useState<Tab>("tide");
  const now = useCurves(state, held, tab !== "tide");
  const was = useCurves(state, [], tab === "impedance" && held.length > 0);
  return (
    <Tabbed at={tab} onTab={setTab}>
      <div className="relative h-full">
        <TabRow label="Charts" tabs={TABS} className="absolute top-[11px] left-5 z-10" />
        <TabPanel at={tab} className="h-full">
          {tab === "tide" ? (
            <TideLine
              title={ROOM}
              words={state.analysis.tide}
              stages={state.analysis.stages}
              before={before?.analysis.stages}
              width={width}
              height={height}
              onLight={onLight}
            />
          ) : now.error ? (
            <div className="px-5 pt-9">
              <Failed error={now.error} retry={() => void now.refetch()} />
            </div>
          ) : !now.data ? (
            <div className="px-5 pt-9">
              <Loading what="the curves" />
            </div>
          ) : tab === "impedance" ? (
            <Suspense fallback={<Loading what="the chart" />}>
              <Impedance
                title={ROOM}
                hookup={state.id}
                spectra={now.data}
                before={held.length ? was.data : undefined}
              />
            </Suspense>
          ) : (
            <Power title={ROOM} power={now.data.power} onLight={onLight} />
          )}
        </TabPanel>
      </div>
    </Tabbed>
  );
}
