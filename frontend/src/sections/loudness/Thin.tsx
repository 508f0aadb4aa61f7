import { range } from "d3-array";
import { scaleLinear, scaleLog } from "d3-scale";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../../api/client";
import { ChartFrame } from "../../parts/ChartFrame";
import { TextInput } from "../../parts/controls";
import { Failed, Loading } from "../../parts/states";
import { asNumber } from "../../parts/typed";

const LEFT = 48;
const BOTTOM = 26;
const TOP = 10;
const TICKS = [20, 50, 100, 200, 500, 1000, 2000, 5000, 10000];

/** What falls behind when something loud is turned down, and the shelf that makes up for it in the monitors. */
export function Thin({
  loud,
  quiet,
  width,
  height,
}: {
  loud: number;
  quiet: number;
  width: number;
  height: number;
}) {
  const [own, setOwn] = useState<{ loud?: string; quiet?: string }>({});
  const top = Math.round(Math.min(130, Math.max(30, loud)));
  const from = own.loud ?? String(top);
  const to = own.quiet ?? String(Math.round(Math.min(top, Math.max(10, quiet))));
  const query = useQuery({
    queryKey: ["thin", from, to],
    queryFn: () =>
      answer(
        api.GET("/api/tools/thin", { params: { query: { loud: asNumber(from), quiet: asNumber(to) } } }),
      ),
    placeholderData: keepPreviousData,
  });
  const found = query.data;
  const lost = found?.thin.lost ?? [];
  const most = Math.max(6, Math.ceil(Math.max(...lost, 0) / 5) * 5);
  const least = Math.min(-3, Math.floor(Math.min(...lost, 0)));
  const w = width - 40;
  const h = height - 70;
  const x = scaleLog([20, 12500], [LEFT, w - 8]);
  const y = scaleLinear([most, least], [TOP, h - BOTTOM]);
  const line = (values: number[]) =>
    values.map((v, i) => `${i ? "L" : "M"}${x(found!.frequency[i]!).toFixed(1)} ${y(v).toFixed(1)}`).join("");
  const sentence = found?.thin.words ?? "Reading the contours.";
  const table = {
    head: ["Frequency, Hz", "Missing, dB", "Shelf, dB"],
    rows: (found?.frequency ?? []).map((f, i) => [
      f,
      Number(lost[i]!.toFixed(1)),
      Number(found!.shelved[i]!.toFixed(1)),
    ]),
  };
  return (
    <ChartFrame title={<b>Thin when quiet</b>} sentence={sentence} table={table}>
      <div className="flex flex-wrap items-center gap-2 pt-1.5 text-[13px]">
        Loud
        <TextInput
          aria-label="Loud, dB"
          inputMode="decimal"
          className="!w-16"
          value={from}
          onChange={(e) => setOwn({ ...own, loud: e.target.value })}
        />
        dB, quiet
        <TextInput
          aria-label="Quiet, dB"
          inputMode="decimal"
          className="!w-16"
          value={to}
          onChange={(e) => setOwn({ ...own, quiet: e.target.value })}
        />
        dB
        <span className="ml-4 flex items-center gap-1.5">
          <svg width="26" height="6" aria-hidden>
            <path d="M0 3h26" className="stroke-deep" strokeWidth="2.6" />
          </svg>
          missing
          <svg width="26" height="6" aria-hidden>
            <path d="M0 3h26" className="stroke-ink" strokeWidth="2.2" strokeDasharray="6 4" />
          </svg>
          the shelf
        </span>
        <b className="ml-auto">For the monitors only: never for the take.</b>
      </div>
      {query.error ? (
        <Failed error={query.error} />
      ) : !found ? (
        <Loading what="the contours" />
      ) : (
        <svg width={w} height={h} role="img" aria-label={sentence}>
          {TICKS.map((f) => (
            <g key={f}>
              <path d={`M${x(f)} ${TOP}V${h - BOTTOM}`} className="stroke-line" strokeOpacity={0.6} />
              <text x={x(f)} y={h - 8} textAnchor="middle" className="fill-ink-2 text-[12px]">
                {f >= 1000 ? `${f / 1000} kHz` : `${f} Hz`}
              </text>
            </g>
          ))}
          {range(Math.ceil(least / 5) * 5, most + 1, 5).map((db) => (
            <g key={db}>
              <path d={`M${LEFT} ${y(db)}H${w - 8}`} className={db === 0 ? "stroke-ink-2" : "stroke-line"} />
              <text x={LEFT - 6} y={y(db) + 4} textAnchor="end" className="fill-ink-2 text-[12px]">
                {String(db).replace("-", "−")} dB
              </text>
            </g>
          ))}
          <path d={line(lost)} fill="none" className="stroke-deep" strokeWidth={2.6} />
          <path
            d={line(found.shelved)}
            fill="none"
            className="stroke-ink"
            strokeWidth={2.2}
            strokeDasharray="6 4"
          />
        </svg>
      )}
      {found?.thin.held && (
        <p className="text-[12px] text-ink-2">
          The contours hold between 20 and 90 dB (80 dB from 5 kHz up); beyond, the nearest is taken.
        </p>
      )}
    </ChartFrame>
  );
}
