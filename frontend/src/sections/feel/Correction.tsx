import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Change, type Schemas } from "../../api/client";
import { ChartFrame } from "../../parts/ChartFrame";
import { Button, FIELD } from "../../parts/controls";
import { Failed, Loading } from "../../parts/states";
import { Stroke } from "../../parts/Stroke";
import { short, signed } from "../../parts/table";
import { Beside } from "./Beside";
import { type AmpOf, type Feel, type FeelState } from "./useFeel";

const two = (value: number) => (Math.abs(value) < 0.005 ? "0" : value.toFixed(2).replace("-", "−"));

function Choice({
  label,
  value,
  state,
  onChoose,
}: {
  label: string;
  value: string;
  state: FeelState;
  onChoose: (id: string) => void;
}) {
  return (
    <label className="flex min-w-0 items-center gap-1.5">
      {label}
      <select
        className={`${FIELD} !w-[200px] !py-0.5`}
        value={value}
        onChange={(e) => onChoose(e.target.value)}
      >
        {state.feels.feels.map((f) => (
          <option key={f.id} value={f.id}>
            {f.label}
          </option>
        ))}
      </select>
    </label>
  );
}

/** Something that does not sound like the source already, a cabinet rather than a load. */
function unlike(all: Feel[], source: string): string {
  const own = all.find((f) => f.id === source);
  const others = all.filter((f) => f.id !== source);
  const far = others.filter(
    (f) => Math.abs(f.presence - (own?.presence ?? 0)) + Math.abs(f.bass - (own?.bass ?? 0)) > 0.5,
  );
  return (far.find((f) => f.kind === "cabinet") ?? far[0] ?? others[0])?.id ?? "";
}

/** What is asked first: the load on the Bench, or a resistor, made to sound like the cabinet. */
function pair({ feels: { feels }, here }: FeelState): [string, string] {
  const own = (kind: string) => feels.find((f) => f.kind === kind && here.includes(f.id))?.id;
  const source = own("load") ?? feels.find((f) => f.kind === "resistor")?.id ?? "";
  return [source, own("cabinet") ?? unlike(feels, source)];
}

type Rate = "44100" | "48000" | "96000";
const RATES: Rate[] = ["44100", "48000", "96000"];

function Bands({ correction }: { correction: Schemas["Equalisation"] }) {
  return (
    <table className="w-full text-[13px]">
      <thead className="text-left text-ink-2">
        <tr>
          <th className="font-medium">Band</th>
          <th className="font-medium">at</th>
          <th className="font-medium">gain</th>
          <th className="font-medium">Q</th>
        </tr>
      </thead>
      <tbody>
        {(correction.bands ?? []).map((b) => (
          <tr key={b.kind + b.frequency} className="border-t border-line">
            <td className="py-1 font-semibold">{b.kind}</td>
            <td>{Math.round(b.frequency)} Hz</td>
            <td>{signed(b.gain)} dB</td>
            <td>{short(Number(b.q.toFixed(2)))}</td>
          </tr>
        ))}
        <tr className="border-t border-line">
          <td className="py-1 font-semibold" colSpan={2}>
            over all
          </td>
          <td colSpan={2}>{signed(correction.gain)} dB</td>
        </tr>
      </tbody>
    </table>
  );
}

/** An owned equaliser as it is to be set, put on where it is in the hook-up. */
function OnPedal({
  setting,
  onPut,
}: {
  setting: Schemas["PedalSetting"];
  onPut: (changes: Change[]) => void;
}) {
  return (
    <>
      <table className="w-full text-[13px]">
        <thead className="text-left text-ink-2">
          <tr>
            <th className="font-medium">{setting.name}</th>
            <th className="font-medium">to</th>
          </tr>
        </thead>
        <tbody>
          {setting.settings.map((each) => (
            <tr key={each.label} className="border-t border-line">
              <td className="py-0.5 font-semibold">{each.label}</td>
              <td>{signed(each.value)} dB</td>
            </tr>
          ))}
        </tbody>
      </table>
      {setting.changes.length > 0 ? (
        <Button className="mt-2" onClick={() => onPut(setting.changes)}>
          Set it so in the hook-up
        </Button>
      ) : (
        <p className="mt-2 text-[12.5px] text-ink-2">{setting.name} is not in this hook-up.</p>
      )}
    </>
  );
}

/** Bands and a filter that make one load sound like another, with what they leave over. */
export function Correction({
  hookup,
  state,
  amp,
  onPut,
}: {
  hookup: string;
  state: FeelState;
  amp: AmpOf;
  onPut: (changes: Change[]) => void;
}) {
  const [[source, like], setPair] = useState(() => pair(state));
  const [rate, setRate] = useState<Rate>("48000");
  const [pedal, setPedal] = useState("");
  const given = { source, like, rate, pedal, ...amp };
  const query = useQuery({
    queryKey: ["feel", hookup, "correction", given],
    queryFn: () =>
      answer(
        api.GET("/api/hookups/{hookup_id}/feel/correction", {
          params: { path: { hookup_id: hookup }, query: given },
        }),
      ),
    placeholderData: keepPreviousData,
  });
  const found = query.data;
  const bands = found?.correction.bands ?? [];
  const params = new URLSearchParams(Object.entries(given).map(([k, v]) => [k, String(v)]));
  const base = `/api/hookups/${hookup}/feel/correction`;
  const table = {
    head: ["Band", "Frequency, Hz", "Gain, dB", "Q"],
    rows: bands.map((b) => [b.kind, Math.round(b.frequency), two(b.gain), two(b.q)]),
  };
  return (
    <ChartFrame title={<b>Correction</b>} sentence={found?.words ?? ""} table={table} roomy>
      <div className="flex h-full flex-col">
        <div className="flex shrink-0 flex-wrap items-center gap-x-4 gap-y-1 pt-1.5 text-[13px]">
          <Choice label="Make" value={source} state={state} onChoose={(id) => setPair([id, like])} />
          <Choice label="sound like" value={like} state={state} onChoose={(id) => setPair([source, id])} />
          {state.equalisers.length > 0 && (
            <label className="flex items-center gap-1.5">
              with
              <select
                className={`${FIELD} !w-[150px] !py-0.5`}
                value={pedal}
                onChange={(e) => setPedal(e.target.value)}
              >
                <option value="">an equaliser in software</option>
                {state.equalisers.map((each) => (
                  <option key={each.id} value={each.id}>
                    {each.name}
                  </option>
                ))}
              </select>
            </label>
          )}
          <label className={pedal ? "hidden" : "flex items-center gap-1.5"}>
            in a session at
            <select
              className={`${FIELD} !w-[96px] !py-0.5`}
              value={rate}
              onChange={(e) => setRate(e.target.value as Rate)}
            >
              {RATES.map((each) => (
                <option key={each} value={each}>
                  {Number(each) / 1000} kHz
                </option>
              ))}
            </select>
          </label>
        </div>
        {query.error ? (
          <Failed error={query.error} />
        ) : !found ? (
          <Loading what="the correction" />
        ) : (
          <Beside
            frequency={found.frequency}
            label="Settings"
            curves={[
              { name: "wanted", values: found.correction.target },
              { name: "bands", values: found.correction.fitted },
            ]}
          >
            <p className="flex items-center gap-2 pb-1.5 text-[12.5px] text-ink-2">
              <Stroke of={0} /> wanted <Stroke of={1} className="ml-2" /> bands
            </p>
            {found.pedal ? (
              <OnPedal setting={found.pedal} onPut={onPut} />
            ) : (
              <Bands correction={found.correction} />
            )}
            <p className={found.pedal ? "hidden" : "mt-2 flex flex-wrap gap-x-3 text-[13px]"}>
              <a className="text-deep underline" href={`${base}.csv?${params.toString()}`} download>
                Settings as CSV
              </a>
              <a className="text-deep underline" href={`${base}.wav?${params.toString()}`} download>
                Filter as WAV, {Number(rate) / 1000} kHz
              </a>
            </p>
            <p className="mt-2 text-[12.5px] text-ink-2">
              {found.pedal
                ? "In the line from the load; or in the loop, where it turns down with its output level and gives tone back."
                : "For the line from the load, after the fact."}{" "}
              An equaliser gives the tone of the other load; it does not bring back how the power stage reacts
              to it.
            </p>
          </Beside>
        )}
      </div>
    </ChartFrame>
  );
}
