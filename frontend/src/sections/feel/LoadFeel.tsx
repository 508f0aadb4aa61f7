import { lazy, Suspense, useState } from "react";
import { Link } from "react-router";
import type { BenchState } from "../../api/client";
import { ChartFrame } from "../../parts/ChartFrame";
import { FIELD, TextInput } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { usePreferences } from "../../parts/Preferences";
import { Failed, Loading } from "../../parts/states";
import { short } from "../../parts/table";
import { TabbedAside } from "../../parts/TabbedAside";
import { Tabbed, TabPanel, TabRow } from "../../parts/Tabs";
import { asNumber } from "../../parts/typed";
import { OfHookup } from "../bench/OfHookup";
import type { Bench } from "../bench/useBench";
import { Correction } from "./Correction";
import { Hear } from "./Hear";
import { Loads } from "./Loads";
import { Pads } from "./Pads";
import { useFeel, usePick, type FeelState } from "./useFeel";

const FrequencyChart = lazy(() => import("../../parts/FrequencyChart"));

const VIEWS = [
  { id: "curves", name: "At the amp’s jack" },
  { id: "ohms", name: "Impedance" },
  { id: "pads", name: "With attenuation" },
  { id: "correction", name: "Correction" },
] as const;
type View = (typeof VIEWS)[number]["id"];
const ASIDES = [
  { id: "loads", name: "Loads" },
  { id: "hear", name: "Hear it" },
] as const;

function Drawn({
  state,
  picked,
  view,
  onReference,
}: {
  state: FeelState;
  picked: string[];
  view: View;
  onReference: (id: string) => void;
}) {
  const feels = picked.flatMap((id) => state.feels.feels.filter((f) => f.id === id));
  const ohms = view === "ohms";
  const curves = feels.map((f) => ({ name: f.label, values: ohms ? f.magnitude : f.difference }));
  const told = feels.find((f) => f.id !== state.feels.reference && f.id !== feels[0]?.id) ?? feels[0];
  const table = {
    head: ["Frequency, Hz", ...curves.map((c) => `${c.name}, ${ohms ? "Ω" : "dB"}`)],
    rows: state.feels.frequency.map((f, i) => [
      short(f),
      ...curves.map((c) => Number(c.values[i]!.toFixed(2))),
    ]),
  };
  const sentence = ohms
    ? "What each is to the amp, over frequency; matches are judged by rating, not by this."
    : told
      ? `${told.label}. ${told.words}`
      : "Pick loads in the list.";
  const all = curves.flatMap((c) => c.values);
  return (
    <ChartFrame
      title={
        <label className="flex items-center gap-1.5">
          <b>{ohms ? "Impedance" : "Level at the jack"}</b>
          {!ohms && (
            <>
              against
              <select
                className={`${FIELD} !w-[170px] !py-0.5`}
                value={state.feels.reference}
                onChange={(e) => onReference(e.target.value)}
              >
                {state.feels.feels.map((f) => (
                  <option key={f.id} value={f.id}>
                    {f.label}
                  </option>
                ))}
              </select>
            </>
          )}
        </label>
      }
      sentence={sentence}
      table={table}
      roomy
    >
      {curves.length === 0 ? (
        <p className="pt-3 text-ink-2">Pick loads in the list to draw them.</p>
      ) : (
        <Suspense fallback={<Loading what="the chart" />}>
          <FrequencyChart
            frequency={state.feels.frequency}
            curves={curves}
            unit={ohms ? "Ω" : "dB"}
            logarithmic={ohms}
            digits={ohms ? undefined : 1}
            domain={ohms ? [Math.min(...all) * 0.9, Math.max(...all) * 1.1] : undefined}
          />
        </Suspense>
      )}
    </ChartFrame>
  );
}

function Work({ bench, state }: { bench: Bench; state: BenchState }) {
  const [amp, setAmp] = useState("");
  const [damping, setDamping] = useState("");
  const [reference, setReference] = useState("resistor");
  const [picks, setPicks] = useState<string[]>();
  const school = usePreferences().data?.preferences.load;
  const [looked, setView] = useState<View>();
  // Who equalises a resistive load wants its correction first.
  const view = looked ?? (school === "resistive" ? "correction" : "curves");
  const [aside, setAside] = useState<(typeof ASIDES)[number]["id"]>("loads");
  const of = { amp, ...(damping.trim() && { damping: asNumber(damping) }) };
  const query = useFeel(state.id, state.saves, reference, of);
  const choose = usePick(state.id, reference, of);
  useKeys({ u: bench.undo, U: bench.redo });
  if (query.error && !query.data) return <Failed error={query.error} retry={() => void query.refetch()} />;
  if (!query.data) return <Loading what="the curves" />;
  const feel = query.data;
  // What goes with these curves has their amp and damping factor, also while a refused one is mended.
  const shown = { amp: feel.amp, damping: feel.feels.damping_factor };
  const picked = (picks ?? feel.first).filter((id) => feel.feels.feels.some((f) => f.id === id));
  const chosen = picked.flatMap((id) => feel.feels.feels.filter((f) => f.id === id));
  const own = feel.amps.find((a) => a.id === feel.amp)?.damping_factor ?? feel.feels.damping_factor;
  const preset = damping === "" || feel.dampings.some((d) => String(d.factor) === damping);
  return (
    <div className="flex min-h-0 flex-1 flex-col lg:flex-row">
      <Tabbed at={view} onTab={setView}>
        <div className="flex min-w-0 flex-1 flex-col">
          <div className="flex shrink-0 flex-wrap items-center gap-x-4 gap-y-1 px-5 pt-2 text-[13px]">
            <TabRow label="Pictures" tabs={VIEWS} className="mr-auto" />
            <label className="flex items-center gap-1.5">
              Amp
              <select
                className={`${FIELD} !w-[132px] !py-0.5 font-semibold`}
                value={feel.amp}
                onChange={(e) => setAmp(e.target.value)}
              >
                {feel.amps.map((a) => (
                  <option key={a.id} value={a.id}>
                    {a.name}
                  </option>
                ))}
              </select>
            </label>
            <label className="flex items-center gap-1.5">
              Damping factor
              <select
                className={`${FIELD} !w-[150px] !py-0.5`}
                value={preset ? damping : "own"}
                onChange={(e) => setDamping(e.target.value === "own" ? "1" : e.target.value)}
              >
                <option value="">its own, {short(own)}</option>
                {feel.dampings.map((d) => (
                  <option key={d.name} value={d.factor}>
                    {short(d.factor)}, {d.name}
                  </option>
                ))}
                <option value="own">another …</option>
              </select>
            </label>
            {!preset && (
              <TextInput
                aria-label="Damping factor, typed"
                inputMode="decimal"
                className="!w-16 !py-0.5"
                value={damping}
                onChange={(e) => setDamping(e.target.value)}
              />
            )}
            {feel.damping_typical && <i className="text-ink-2">typical</i>}
          </div>
          {query.error && <Failed error={query.error} />}
          <TabPanel at={view} className="min-h-[380px] flex-1 pb-2">
            {view === "pads" ? (
              <Pads hookup={state.id} state={feel} amp={shown} />
            ) : view === "correction" ? (
              <Correction hookup={state.id} state={feel} amp={shown} onPut={bench.change} />
            ) : (
              <Drawn state={feel} picked={picked} view={view} onReference={setReference} />
            )}
          </TabPanel>
          <p className="shrink-0 border-t border-line px-5 py-1.5 text-[12.5px] text-ink-2">
            <b className="text-ink">Reactive, or resistive and equalised:</b> a reactive load lets the amp’s
            own output rise as a speaker would, in one way that cannot be changed afterwards; a resistive one
            leaves the tone open, and no equaliser brings back how the power stage reacts. Both are used;
            level apart, the ear decides:{" "}
            <Link className="text-deep underline" to={`/compare/shoot-out?hookup=${state.id}`}>
              one dry track through both
            </Link>
            .
          </p>
        </div>
      </Tabbed>
      <TabbedAside tabs={ASIDES} at={aside} onTab={setAside}>
        {aside === "loads" && (
          <Loads
            state={feel}
            picked={picked}
            onPick={(id) => setPicks(picked.includes(id) ? picked.filter((p) => p !== id) : [...picked, id])}
            onChoose={(id) => choose.mutate(id)}
            choosing={{ busy: choose.isPending, error: choose.error }}
          />
        )}
        {/* Kept while the list is looked at: what was rendered stays to be heard. */}
        <div className={aside === "hear" ? "flex min-h-0 flex-1 flex-col" : "hidden"}>
          <Hear hookup={state.id} chosen={chosen} amp={shown} />
        </div>
      </TabbedAside>
    </div>
  );
}

export default function LoadFeel() {
  return <OfHookup at="feel">{(bench, state) => <Work bench={bench} state={state} />}</OfHookup>;
}
