import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../../api/client";
import { ChartFrame } from "../../parts/ChartFrame";
import { FIELD } from "../../parts/controls";
import { Empty, Failed, Loading } from "../../parts/states";
import { Stroke } from "../../parts/Stroke";
import { fixed, short, signed } from "../../parts/table";
import { Beside } from "./Beside";
import { type AmpOf, type FeelState } from "./useFeel";

/** How an attenuator takes the cabinet's own curve away, step by step: what the speaker gets. */
export function Pads({ hookup, state, amp }: { hookup: string; state: FeelState; amp: AmpOf }) {
  const cabinets = state.feels.feels.filter((f) => f.kind === "cabinet");
  const [pad, setPad] = useState(state.pads[0]?.id ?? "");
  const [cabinet, setCabinet] = useState(
    cabinets.find((c) => state.here.includes(c.id))?.id ?? cabinets[0]?.id ?? "",
  );
  const given = { pad, cabinet, ...amp };
  const query = useQuery({
    queryKey: ["feel", hookup, "pad", given],
    queryFn: () =>
      answer(
        api.GET("/api/hookups/{hookup_id}/feel/pad", {
          params: { path: { hookup_id: hookup }, query: given },
        }),
      ),
    enabled: pad !== "" && cabinet !== "",
    placeholderData: keepPreviousData,
  });
  const found = query.data;
  const name = (down: number) => (down === 0 ? "straight on" : `${short(down)} dB down`);
  const table = {
    head: [
      "Down, dB",
      "Bass peak over 400 Hz, dB",
      "2 to 5 kHz over 400 Hz, dB",
      "What the amp sees moves by ±, dB",
    ],
    rows: (found?.steps ?? []).map((s) => [
      s.down_db,
      s.bass.toFixed(1),
      fixed(s.presence, 1),
      s.moves.toFixed(2),
    ]),
  };
  return (
    <ChartFrame title={<b>With attenuation</b>} sentence={found?.words ?? ""} table={table} roomy>
      <div className="flex h-full flex-col">
        <div className="flex shrink-0 flex-wrap items-center gap-x-4 gap-y-1 pt-1.5 text-[13px]">
          <label className="flex items-center gap-1.5">
            Behind
            <select
              className={`${FIELD} !w-[160px] !py-0.5`}
              value={pad}
              onChange={(e) => setPad(e.target.value)}
            >
              {state.pads.map((p) => (
                <option key={p.id} value={p.id}>
                  {p.name}
                </option>
              ))}
            </select>
          </label>
          <label className="flex items-center gap-1.5">
            the cabinet
            <select
              className={`${FIELD} !w-[190px] !py-0.5`}
              value={cabinet}
              onChange={(e) => setCabinet(e.target.value)}
            >
              {cabinets.map((c) => (
                <option key={c.id} value={c.id}>
                  {c.label}
                </option>
              ))}
            </select>
          </label>
          <span className="text-ink-2">level taken off, so that only the tone is left</span>
        </div>
        {query.error ? (
          <Failed error={query.error} />
        ) : !pad || !cabinet ? (
          <Empty title="An attenuator and a cabinet are wanted">
            <p>Put one of each into the Locker.</p>
          </Empty>
        ) : !found ? (
          <Loading what="the steps" />
        ) : (
          <Beside
            frequency={found.frequency}
            label="Steps"
            curves={found.steps.map((s) => ({ name: name(s.down_db), values: s.response }))}
          >
            <table className="w-full text-[13px]">
              <thead className="text-left text-ink-2">
                <tr>
                  <th className="font-medium">Step</th>
                  <th className="font-medium">bass</th>
                  <th className="font-medium">2–5 kHz</th>
                </tr>
              </thead>
              <tbody>
                {found.steps.map((s, i) => (
                  <tr key={s.down_db} className="border-t border-line">
                    <td className="py-1 font-semibold">
                      <Stroke of={i} /> {name(s.down_db)}
                    </td>
                    <td>{signed(s.bass)} dB</td>
                    <td>{signed(s.presence)} dB</td>
                  </tr>
                ))}
              </tbody>
            </table>
            <p className="mt-2 text-[12.5px] text-ink-2">
              Over 400 Hz, at the speaker. A reactive pad keeps the curve of its own arms; a resistive one
              leaves less of the cabinet’s with every dB.
            </p>
          </Beside>
        )}
      </div>
    </ChartFrame>
  );
}
