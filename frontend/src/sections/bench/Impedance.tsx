import { useState, type ReactNode } from "react";
import type { Schemas } from "../../api/client";
import { ChartFrame } from "../../parts/ChartFrame";
import FrequencyChart, { type FrequencyCurve } from "../../parts/FrequencyChart";
import { One, OneOf } from "../../parts/OneOf";
import { short } from "../../parts/table";

type Spectra = Schemas["Spectra"];
type Spectrum = Spectra["amps"][number];

interface Props {
  title: ReactNode;
  hookup: string;
  spectra: Spectra;
  before?: Spectra;
}

const hertz = (f: number) => (f >= 1000 ? `${short(f / 1000)} kHz` : `${short(f)} Hz`);
const VIEWS = { magnitude: "Ω", phase: "°", shares: "%" } as const;
type View = keyof typeof VIEWS;
const VIEW_NAMES: Record<View, string> = { magnitude: "Magnitude", phase: "Phase", shares: "Shares" };
/** What is drawn of an amp, and of the same before a change. */
function curvesOf(amp: Spectrum, view: View, was?: Spectrum): FrequencyCurve[] {
  if (view === "shares")
    return amp.shares.map((s) => ({ name: s.name, values: s.fraction.map((part) => 100 * part) }));
  return [
    { name: `${amp.name} sees`, values: amp[view] },
    ...(was ? [{ name: "before", values: was[view] }] : []),
  ].filter((curve) => curve.values.length > 0);
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
  const curves = curvesOf(amp, view, was);
  const unit = VIEWS[view];
  const drawn = [...amp.magnitude, ...(was?.magnitude ?? []), amp.low, amp.high];
  const span: [number, number] = [Math.min(...drawn) * 0.92, Math.max(...drawn) * 1.08];
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
          <OneOf label="Show" value={view} onValue={(next) => setView(next as View)} className="flex gap-1">
            {(Object.keys(VIEWS) as View[]).map((each) => (
              <One
                key={each}
                value={each}
                className="rounded border border-line bg-sheet px-1.5 text-ink hover:border-ink aria-checked:border-ink aria-checked:bg-ink aria-checked:text-paper"
              >
                {VIEW_NAMES[each]}
              </One>
            ))}
          </OneOf>
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
          <FrequencyChart
            frequency={spectra.frequency}
            curves={curves}
            unit={unit}
            {...(view === "magnitude"
              ? { logarithmic: true, domain: span, band: [amp.low, amp.high], mark: amp.tap }
              : view === "phase"
                ? { domain: [-90, 90], ticks: [-90, -45, 0, 45, 90] }
                : { domain: [0, 100] })}
          />
        </div>
      </div>
    </ChartFrame>
  );
}
