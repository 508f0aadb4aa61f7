import { scaleLinear } from "d3-scale";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Thermometer } from "lucide-react";
import { useState } from "react";
import { answer, api, type Schemas } from "../../api/client";
import { Button, TextInput } from "../../parts/controls";
import { Failed } from "../../parts/states";
import { short } from "../../parts/table";
import { asNumber } from "../../parts/typed";
import type { Loudness } from "./useLoudness";

type Box = Loudness["boxes"][number];

/** From where to where a figure may lie; without an upper end where readings do not bound it. */
const span = (low: number, high: number | null | undefined) =>
  high == null ? `over ${short(low)}: too near each other to say more` : `${short(low)} to ${short(high)}`;

const WIDTH = 312;
const HEIGHT = 120;
const LEFT = 34;
const BOTTOM = 20;

/** Case temperature over the session, with its limit. */
function Curve({ box }: { box: Box }) {
  const span = box.minutes.at(-1) ?? 1;
  const low = Math.floor(Math.min(...box.temperature) / 10) * 10;
  const high = Math.ceil((Math.max(...box.temperature, box.limit ?? 0) + 2) / 10) * 10;
  const x = scaleLinear([0, span], [LEFT, WIDTH - 6]);
  const y = scaleLinear([high, low], [6, HEIGHT - BOTTOM]);
  const d = box.minutes.map(
    (m, i) => `${i ? "L" : "M"}${x(m).toFixed(1)} ${y(box.temperature[i]!).toFixed(1)}`,
  );
  const end = box.temperature.at(-1)!;
  return (
    <svg
      width={WIDTH}
      height={HEIGHT}
      role="img"
      aria-label={`${box.name}: ${Math.round(end)} °C after ${Math.round(span)} min, limit ${box.limit} °C`}
    >
      {[low, box.limit!].map((c) => (
        <text key={c} x={LEFT - 5} y={y(c) + 4} textAnchor="end" className="fill-ink-2 text-[11px]">
          {c}°
        </text>
      ))}
      <path
        d={`M${LEFT} ${y(box.limit!)}H${WIDTH - 6}`}
        className="stroke-caution"
        strokeWidth={2}
        strokeDasharray="5 3"
      />
      <path
        d={`M${LEFT} 6V${HEIGHT - BOTTOM}H${WIDTH - 6}`}
        fill="none"
        className="stroke-line"
        strokeWidth={1.5}
      />
      <path d={d.join("")} fill="none" className="stroke-deep" strokeWidth={2.6} />
      {[0, 0.5, 1].map((part) => (
        <text
          key={part}
          x={x(part * span)}
          y={HEIGHT - 5}
          textAnchor={part === 1 ? "end" : part ? "middle" : "start"}
          className="fill-ink-2 text-[11px]"
        >
          {Math.round(part * span)} min
        </text>
      ))}
    </svg>
  );
}

/** Two readings of a thermometer, and what they say of the box. */
function Fitting({ hookup, box, ambient }: { hookup: string; box: Box; ambient: number }) {
  const client = useQueryClient();
  const [rows, setRows] = useState([
    { minutes: "10", celsius: "" },
    { minutes: "30", celsius: "" },
  ]);
  const set = (i: number, change: Partial<(typeof rows)[number]>) => {
    // What was worked out is that of the readings it was worked out from.
    fit.reset();
    setRows((before) => before.map((row, at) => (at === i ? { ...row, ...change } : row)));
  };
  const show = useMutation({
    mutationFn: (i: number) =>
      answer(
        api.POST("/api/hookups/{hookup_id}/thermometer", {
          params: { path: { hookup_id: hookup } },
          body: { unit: box.unit, minutes: asNumber(rows[i]!.minutes) },
        }),
      ),
    onSuccess: ({ celsius }, i) => set(i, { celsius: String(celsius) }),
  });
  const fit = useMutation({
    mutationFn: () => {
      const [first, second] = rows.map((r) => ({
        minutes: asNumber(r.minutes),
        celsius: asNumber(r.celsius),
      }));
      return answer(
        api.POST("/api/tools/heat", {
          body: { ambient, watts: box.heat_watts, first: first!, second: second! },
        }),
      );
    },
  });
  const keep = useMutation({
    mutationFn: async (found: Schemas["Fit"]) => {
      const path = { params: { path: { gear_id: box.unit } } };
      const entry = await answer(api.GET("/api/gear/{gear_id}", path));
      const doc = entry.doc as Record<string, Record<string, unknown>>;
      const warms = {
        ...doc.warms,
        resistance: Number(found.resistance.toPrecision(3)),
        minutes: Number(found.minutes.toPrecision(3)),
      };
      return answer(
        api.PUT("/api/gear/{gear_id}", {
          ...path,
          body: { revision: entry.revision, unit: { ...doc, warms } },
        }),
      );
    },
    onSuccess: () => {
      fit.reset();
      for (const key of ["gear", "loudness", "hookup", "hookups"])
        void client.invalidateQueries({ queryKey: [key] });
    },
  });
  const error = show.error ?? fit.error ?? keep.error;
  return (
    <details className="mt-1">
      <summary className="cursor-pointer text-[13px] font-semibold">
        Fit it from two readings of the case
      </summary>
      <p className="mt-1 text-[12px] text-ink-2">
        From cold, played steadily as above; {short(box.heat_watts)} W of mean heat are taken.
      </p>
      {rows.map((row, i) => (
        <div key={i} className="mt-1.5 flex items-center gap-1.5 text-[13px]">
          after
          <TextInput
            aria-label={`Reading ${i + 1}, minutes`}
            inputMode="decimal"
            className="!w-14"
            value={row.minutes}
            onChange={(e) => set(i, { minutes: e.target.value })}
          />
          min
          <TextInput
            aria-label={`Reading ${i + 1}, °C`}
            inputMode="decimal"
            className="!w-16"
            value={row.celsius}
            onChange={(e) => set(i, { celsius: e.target.value })}
          />
          °C
          <Button
            look="quiet"
            className="!px-1"
            aria-label={`Read the simulated thermometer for reading ${i + 1}`}
            title="Read the simulated thermometer"
            onClick={() => show.mutate(i)}
          >
            <Thermometer size={15} />
          </Button>
        </div>
      ))}
      <Button
        className="mt-2"
        disabled={rows.some((r) => !r.celsius.trim()) || fit.isPending}
        onClick={() => fit.mutate()}
      >
        Work it out
      </Button>
      {fit.data && (
        <p className="mt-1.5 text-[13px]">
          {short(fit.data.resistance)} K/W ({span(fit.data.resistance_low, fit.data.resistance_high)}), time
          constant {short(fit.data.minutes)} min ({span(fit.data.minutes_low, fit.data.minutes_high)}), for
          readings that are right to 1 K.{" "}
          <Button disabled={keep.isPending} onClick={() => keep.mutate(fit.data)}>
            Keep it with {box.name}
          </Button>
        </p>
      )}
      {error && <Failed error={error} />}
    </details>
  );
}

/** How warm every box of the hook-up gets over the session, when it must rest, and for how long. */
export function Heat({ hookup, loudness }: { hookup: string; loudness: Loudness }) {
  return (
    <div className="at-arm min-h-0 flex-1 overflow-y-auto px-4 py-2.5">
      <p className="text-[12.5px] text-ink-2">
        Flat out, {short(loudness.occasion.hours ?? 2)} h, from a room of{" "}
        {short(loudness.occasion.ambient ?? 22)} °C. A hot case burns: air all round it.
      </p>
      {loudness.boxes.length === 0 && (
        <p className="pt-3 text-[13px] text-ink-2">No load, attenuator or re-amplifier takes power here.</p>
      )}
      {loudness.boxes.map((box) => (
        <section key={box.unit} aria-label={box.name} className="border-b border-line py-2.5">
          <h2 className="font-semibold">{box.name}</h2>
          {box.settled == null ? (
            <p className="text-[13px] text-caution">
              Not to be told: neither its rating nor its thermal resistance is on record.
            </p>
          ) : (
            <>
              <p className="text-[13px]">
                About {Math.round(box.temperature.at(-1)!)} °C at the end, {short(box.heat_watts)} W of mean
                heat.{" "}
                {box.reaches == null ? (
                  `It stays under ${box.limit} °C.`
                ) : (
                  <b className="text-caution">
                    {box.limit} °C after {short(box.reaches)} min of it; then {short(box.rest ?? 0)} min of
                    rest.
                  </b>
                )}
              </p>
              <Curve box={box} />
              {box.estimate.length > 0 && (
                <p className="text-[12px] text-ink-2 italic">Estimated: {box.estimate.join("; ")}.</p>
              )}
              <Fitting hookup={hookup} box={box} ambient={loudness.occasion.ambient ?? 22} />
            </>
          )}
        </section>
      ))}
    </div>
  );
}
