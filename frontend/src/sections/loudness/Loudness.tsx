import { useDeferredValue, useState } from "react";
import type { BenchState } from "../../api/client";
import { TextInput } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { Empty, Failed, Loading } from "../../parts/states";
import { TabbedAside } from "../../parts/TabbedAside";
import { Tabbed, TabPanel, TabRow } from "../../parts/Tabs";
import { asNumber } from "../../parts/typed";
import { useSize } from "../../parts/useSize";
import { OfHookup } from "../bench/OfHookup";
import type { Bench } from "../bench/useBench";
import { Ears } from "./Ears";
import { Heat } from "./Heat";
import { Knobs } from "./Knobs";
import { NoPlace } from "./NoPlace";
import { Places } from "./Places";
import { Readings } from "./Readings";
import { Setting } from "./Setting";
import { Steps } from "./Steps";
import { Thin } from "./Thin";
import { TideStaff } from "./TideStaff";
import { Wanted } from "./Wanted";
import { useLoudness, type Loudness as Found, type Step } from "./useLoudness";

const VIEWS = [
  { id: "plan", name: "Tide staff" },
  { id: "steps", name: "Steps" },
  { id: "places", name: "Places" },
  { id: "thin", name: "Thin when quiet" },
] as const;
const ASIDES = [
  { id: "setting", name: "Setting" },
  { id: "readings", name: "Readings" },
  { id: "ears", name: "Ears" },
  { id: "heat", name: "Heat" },
  { id: "knobs", name: "Knobs" },
] as const;
const SELECT = "rounded border border-line bg-sheet px-1 py-0.5";

type Occasion = Found["occasion"];
/** When and how it is played: kept with the hook-up, changed in place. */
function When({
  occasion,
  playing,
  onChange,
}: {
  occasion: Occasion;
  playing: Found["playing"];
  onChange: (next: Occasion) => void;
}) {
  const [hour, setHour] = useState<string>();
  const [hours, setHours] = useState<string>();
  const said = occasion.hour ?? "";
  const leave = () => {
    if (hour !== undefined && hour.trim() !== said) onChange({ ...occasion, hour: hour.trim() });
    setHour(undefined);
  };
  const leaveHours = () => {
    const value = asNumber(hours ?? "");
    if (hours?.trim() && value !== occasion.hours) onChange({ ...occasion, hours: value });
    setHours(undefined);
  };
  const enter = (run: () => void) => (event: { key: string }) => event.key === "Enter" && run();
  return (
    <span className="flex flex-wrap items-center gap-1.5 text-[13px]">
      at
      <TextInput
        aria-label="Hour of the day"
        placeholder="any hour"
        className="!w-[76px] !py-0.5"
        value={hour ?? said}
        onChange={(e) => setHour(e.target.value)}
        onBlur={leave}
        onKeyDown={enter(leave)}
      />
      for
      <TextInput
        aria-label="Length of the session, hours"
        inputMode="decimal"
        className="!w-12 !py-0.5"
        value={hours ?? String(occasion.hours)}
        onChange={(e) => setHours(e.target.value)}
        onBlur={leaveHours}
        onKeyDown={enter(leaveHours)}
      />
      h,
      <select
        aria-label="Played are"
        className={SELECT}
        value={occasion.playing}
        onChange={(e) => onChange({ ...occasion, playing: e.target.value as Occasion["playing"] })}
      >
        {playing.map(({ id, name }) => (
          <option key={id} value={id}>
            {name}
          </option>
        ))}
      </select>
    </span>
  );
}

function Work({ bench, state }: { bench: Bench; state: BenchState }) {
  const [place, setPlace] = useState("");
  /** The wish as it is being moved; the hook-up's own where there is none. */
  const [wish, setWish] = useState<number>();
  const [view, setView] = useState<(typeof VIEWS)[number]["id"]>("plan");
  const [aside, setAside] = useState<(typeof ASIDES)[number]["id"]>("setting");
  const [chosen, setChosen] = useState<Step>();
  const asked = useDeferredValue(wish);
  const query = useLoudness(state.id, state.saves, place, asked);
  const chart = useSize();
  useKeys({ u: bench.undo, U: bench.redo });
  if (query.error) return <Failed error={query.error} retry={() => void query.refetch()} />;
  if (!query.data) return <Loading what="how loud it gets" />;
  const loudness = query.data;
  const { plan, occasion } = loudness;
  const wanted = wish ?? plan.wanted ?? 60;
  const kept = occasion.place === plan.place ? occasion.level : undefined;
  const at = plan.places.findIndex((p) => p.place === plan.place);
  const steps = plan.ladders.flatMap((l) => l.steps);
  // A step is told anew with every answer: its levels move with the hook-up.
  const held = chosen && steps.find((r) => r.unit === chosen.unit && r.position === chosen.position);
  const tall = chart.height - 36;
  return (
    <div className="flex min-h-0 flex-1 flex-col lg:flex-row">
      <Tabbed at={view} onTab={setView}>
        <div className="flex min-w-0 flex-1 flex-col">
          <div className="flex shrink-0 flex-wrap items-center gap-x-3 gap-y-1 px-5 pt-2 text-[13px]">
            <label className={plan.places.length ? "flex items-center gap-1.5" : "hidden"}>
              Wanted at
              <select
                className={`${SELECT} max-w-[150px] font-semibold`}
                value={plan.place}
                onChange={(e) => {
                  setPlace(e.target.value);
                  setWish(undefined);
                }}
              >
                {plan.places.map((p) => (
                  <option key={p.place} value={p.place}>
                    {p.name}
                  </option>
                ))}
              </select>
            </label>
            {plan.place && (
              <Wanted
                key={plan.place}
                hookup={state.id}
                place={plan.place}
                wanted={wanted}
                onWanted={(level) => {
                  setPlace(plan.place);
                  setWish(level);
                }}
              />
            )}
            <When
              occasion={occasion}
              playing={loudness.playing}
              onChange={(next) => bench.change([{ op: "plan", occasion: next }])}
            />
            <TabRow label="Pictures" tabs={VIEWS} className="ml-auto" />
          </div>
          <TabPanel ref={chart.ref} at={view} className="min-h-[380px] flex-1 overflow-hidden pt-1">
            {plan.places.length === 0 ? (
              <NoPlace state={state} />
            ) : view === "plan" ? (
              at >= 0 && plan.full[at] == null ? (
                <Empty title={`How loud it gets at ${plan.places[at]!.name} cannot be told`}>
                  <p>
                    {plan.why[0]!.toUpperCase()}
                    {plan.why.slice(1)}.{" "}
                    {loudness.silent && "A silent hook-up needs no setting: its own noise is checked."}
                  </p>
                </Empty>
              ) : (
                <TideStaff
                  plan={plan}
                  width={chart.width}
                  height={chart.height - 4}
                  wanted={wanted}
                  chosen={held}
                  onWanted={(level) => {
                    setPlace(plan.place);
                    setWish(level);
                  }}
                  onChoose={(step) => {
                    setChosen(step);
                    setAside("setting");
                  }}
                />
              )
            ) : view === "steps" ? (
              <Steps plan={plan} width={chart.width} height={tall} />
            ) : view === "places" ? (
              <Places
                loudness={loudness}
                busy={bench.busy}
                onChange={bench.change}
                onPlace={(next) => {
                  setPlace(next);
                  setWish(undefined);
                }}
              />
            ) : (
              <Thin loud={plan.full[at] ?? 100} quiet={wanted} width={chart.width} height={tall} />
            )}
          </TabPanel>
        </div>
      </Tabbed>
      <TabbedAside tabs={ASIDES} at={aside} onTab={setAside}>
        {aside === "setting" && (
          <Setting
            loudness={loudness}
            wanted={wanted}
            chosen={held}
            busy={bench.busy || query.isPlaceholderData}
            unsaved={at >= 0 && wish !== undefined && wish !== kept}
            onKeep={() => {
              bench.change([{ op: "plan", occasion: { ...occasion, place: plan.place, level: wanted } }]);
              setWish(undefined);
            }}
            onPut={(changes) => {
              setChosen(undefined);
              bench.change(changes);
            }}
          />
        )}
        {aside === "readings" && <Readings key={plan.place} hookup={state.id} loudness={loudness} />}
        {aside === "ears" && <Ears hookup={state.id} loudness={loudness} />}
        {aside === "heat" && <Heat hookup={state.id} loudness={loudness} />}
        {aside === "knobs" && <Knobs />}
      </TabbedAside>
    </div>
  );
}

export default function Loudness() {
  return <OfHookup at="loudness">{(bench, state) => <Work bench={bench} state={state} />}</OfHookup>;
}
