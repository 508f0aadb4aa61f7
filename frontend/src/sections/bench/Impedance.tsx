import { useState, type ReactNode } from "react";
import {
  CartesianGrid,
  Line,
  LineChart,
  ReferenceArea,
  ReferenceLine,
  ResponsiveContainer,
  Tooltip,
  XAxis,
  YAxis,
} from "recharts";
import type { Schemas } from "../../api/client";
import { ChartFrame } from "../../parts/ChartFrame";
import { short } from "../../parts/table";

type Spectra = Schemas["Spectra"];

interface Props {
  title: ReactNode;
  hookup: string;
  spectra: Spectra;
  before?: Spectra;
}

const TICKS = [20, 50, 100, 200, 500, 1000, 2000, 5000, 10000, 20000];
const hertz = (f: number) => (f >= 1000 ? `${short(f / 1000)} kHz` : `${short(f)} Hz`);
const VIEWS = { magnitude: "Ω", phase: "°", shares: "% of the power" } as const;
type View = keyof typeof VIEWS;
const VIEW_NAMES: Record<View, string> = { magnitude: "Magnitude", phase: "Phase", shares: "Shares" };
const STROKES = ["var(--deep)", "var(--caution)", "var(--ink)", "var(--water)", "var(--ok)"];
const DASHES = ["", "7 4", "2 4", "9 3 2 3", "1 5"];

/** Rows for the chart: one a frequency, a column a curve. */
function rowsOf(amp: Spectra["amps"][number], spectra: Spectra, view: View, was?: Spectra["amps"][number]) {
  return spectra.frequency.map((f, i) => {
    const row: Record<string, number> = { f };
    if (view === "shares") {
      for (const share of amp.shares) row[share.name] = 100 * share.fraction[i]!;
      return row;
    }
    const values = amp[view];
    if (values.length) row["sees"] = values[i]!;
    if (was?.[view].length) row["before"] = was[view][i]!;
    return row;
  });
}

function sentence(amp: Spectra["amps"][number], frequency: number[]): string {
  if (!amp.magnitude.length) return `${amp.name} has no load: there is nothing to draw.`;
  const band = frequency.map((f, i) => [f, amp.magnitude[i]!] as const).filter(([f]) => f >= 80 && f <= 5000);
  const least = band.reduce((a, b) => (b[1] < a[1] ? b : a));
  const most = band.reduce((a, b) => (b[1] > a[1] ? b : a));
  return (
    `${amp.name} sees ${short(least[1])} Ω at ${hertz(least[0])} at the least and ${short(most[1])} Ω at` +
    ` ${hertz(most[0])} at the most, 80 Hz to 5 kHz. The match is judged by ratings, not by this curve.`
  );
}

/** What an amp sees over frequency, with its tap and the band that counts as a match, and each unit's share. */
export default function Impedance({ title, hookup, spectra, before }: Props) {
  const [at, setAt] = useState(0);
  const [view, setView] = useState<View>("magnitude");
  const amp = spectra.amps[Math.min(at, spectra.amps.length - 1)];
  if (!amp) {
    return (
      <ChartFrame title={title} sentence="No amp, no curve." table={{ head: ["Frequency, Hz"], rows: [] }}>
        <p className="pt-2 text-ink-2">Put an amp into the hook-up first.</p>
      </ChartFrame>
    );
  }
  const was = before?.amps.find((a) => a.unit === amp.unit && a.tap === amp.tap) ?? before?.amps[0];
  const rows = rowsOf(amp, spectra, view, was);
  const curves = view === "shares" ? amp.shares.map((s) => s.name) : [...(was ? ["before"] : []), "sees"];
  const unit = VIEWS[view];
  const drawn = [...amp.magnitude, ...(was?.magnitude ?? []), amp.low, amp.high];
  const span = [Math.min(...drawn) * 0.92, Math.max(...drawn) * 1.08];
  const table = {
    head: [
      "Frequency, Hz",
      "Sees, Ω",
      "Phase, °",
      ...amp.shares.map((s) => `${s.name}, %`),
      ...(was ? ["Before, Ω"] : []),
    ],
    rows: spectra.frequency.map((f, i) => [
      f,
      amp.magnitude[i] ?? null,
      amp.phase[i] ?? null,
      ...amp.shares.map((s) => Number((100 * s.fraction[i]!).toFixed(2))),
      ...(was ? [was.magnitude[i] ?? null] : []),
    ]),
  };
  return (
    <ChartFrame title={title} sentence={sentence(amp, spectra.frequency)} table={table}>
      <div className="flex h-full flex-col">
        <div className="flex shrink-0 flex-wrap items-center gap-x-4 gap-y-1 pt-1 text-[12px] text-ink-2">
          {spectra.amps.length > 1 && (
            <select
              aria-label="Amp"
              value={at}
              onChange={(event) => setAt(Number(event.target.value))}
              className="rounded border border-line bg-sheet px-1"
            >
              {spectra.amps.map((a, i) => (
                <option key={`${a.unit}${a.tap}`} value={i}>
                  {a.name}, {short(a.tap)} Ω
                </option>
              ))}
            </select>
          )}
          <span role="radiogroup" aria-label="Show" className="flex gap-1">
            {(Object.keys(VIEWS) as View[]).map((each) => (
              <button
                key={each}
                type="button"
                role="radio"
                aria-checked={view === each}
                onClick={() => setView(each)}
                className={`rounded border px-1.5 ${view === each ? "border-ink bg-ink text-paper" : "border-line bg-sheet text-ink hover:border-ink"}`}
              >
                {VIEW_NAMES[each]}
              </button>
            ))}
          </span>
          {curves.map((name, i) => (
            <span key={name} className="flex items-center gap-1">
              <svg width="26" height="6" aria-hidden>
                <path
                  d="M0 3h26"
                  stroke={STROKES[i % 5]}
                  strokeWidth="2.4"
                  strokeDasharray={name === "before" ? "3 4" : DASHES[i % 5]}
                />
              </svg>
              {name === "sees" ? `${amp.name} sees` : name}
            </span>
          ))}
          {!before && amp.magnitude.length > 0 && (
            <span className="flex gap-2">
              save as
              {(["zma", "csv", "frd"] as const).map((to) => (
                <a
                  key={to}
                  className="text-deep underline"
                  title={to === "frd" ? "level at the jack, dB to its label" : "impedance"}
                  href={`/api/hookups/${hookup}/impedance?amp=${amp.unit}&to=${to}`}
                  download
                >
                  {to.toUpperCase()}
                </a>
              ))}
            </span>
          )}
          {view === "magnitude" && (
            <span>
              shaded: {short(amp.low)} to {short(amp.high)} Ω, what counts as a match on {short(amp.tap)} Ω
            </span>
          )}
        </div>
        <div className="min-h-0 flex-1">
          <ResponsiveContainer width="100%" height="100%">
            <LineChart data={rows} margin={{ top: 8, right: 12, bottom: 2, left: 0 }} accessibilityLayer>
              <CartesianGrid stroke="var(--line)" strokeOpacity={0.7} />
              <XAxis
                dataKey="f"
                type="number"
                scale="log"
                domain={[20, 20000]}
                ticks={TICKS}
                tickFormatter={(f: number) => (f >= 1000 ? `${f / 1000}k` : String(f))}
                tick={{ fill: "var(--ink-2)", fontSize: 12 }}
                stroke="var(--line)"
                unit=""
              />
              <YAxis
                scale={view === "magnitude" ? "log" : "linear"}
                allowDataOverflow
                domain={view === "shares" ? [0, 100] : view === "phase" ? [-90, 90] : span}
                ticks={view === "phase" ? [-90, -45, 0, 45, 90] : undefined}
                tickFormatter={(v: number) => `${short(v)} ${view === "shares" ? "%" : unit}`}
                tick={{ fill: "var(--ink-2)", fontSize: 12 }}
                stroke="var(--line)"
                width={64}
              />
              {view === "magnitude" && (
                <ReferenceArea y1={amp.low} y2={amp.high} fill="var(--shoal)" fillOpacity={0.9} />
              )}
              {view === "magnitude" && (
                <ReferenceLine y={amp.tap} stroke="var(--ink-2)" strokeDasharray="4 4" />
              )}
              <Tooltip
                isAnimationActive={false}
                contentStyle={{
                  background: "var(--sheet)",
                  border: "1px solid var(--line)",
                  borderRadius: 6,
                  fontSize: 12.5,
                  padding: "4px 8px",
                }}
                labelFormatter={(f) => hertz(Number(f))}
                formatter={(value, name) => [
                  `${short(Number(value))} ${view === "shares" ? "%" : unit}`,
                  name === "sees" ? `${amp.name} sees` : name,
                ]}
              />
              {curves.map((name, i) => (
                <Line
                  key={name}
                  dataKey={name}
                  dot={false}
                  isAnimationActive={false}
                  stroke={STROKES[i % 5]}
                  strokeWidth={2.2}
                  strokeDasharray={name === "before" ? "3 4" : DASHES[i % 5]}
                />
              ))}
            </LineChart>
          </ResponsiveContainer>
        </div>
      </div>
    </ChartFrame>
  );
}
