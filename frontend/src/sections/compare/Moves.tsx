import { scaleLinear } from "d3-scale";
import { strokeOf } from "../../parts/strokes";
import { fixed } from "../../parts/table";
import { useSize } from "../../parts/useSize";
import { LETTERS, type Comparison } from "./useComparison";

export const MEASURES = [
  ["L10 to L90", "range_db", "dB"],
  ["crest factor", "crest_db", "dB"],
  ["attack over sustain", "attack_db", "dB"],
  ["loudness range", "loudness_range_lu", "LU"],
] as const;

export const dynamicsOf = (state: Comparison, place: number) => state.tracks[place]?.held?.dynamics;

const LEFT = 52;
const FOOT = 22;
const LEAST_LU = 18;
const MOST_LU = 48;

/** Short-term loudness of all recordings over time, each as it came, and the measures of how they move. */
export function Moves({ state, at }: { state: Comparison; at: number }) {
  const { ref, width, height } = useSize();
  const lines = state.tracks.flatMap((_, place) => {
    const found = dynamicsOf(state, place)?.over_time;
    return found?.times.length ? [{ place, found }] : [];
  });
  if (lines.length === 0)
    return (
      <p className="pt-4 text-ink-2">Loudness over time is told from three seconds on; these are shorter.</p>
    );
  const all = lines.flatMap((l) => l.found.lufs);
  const most = Math.ceil(Math.max(...all) / 6) * 6;
  const range = Math.min(MOST_LU, Math.max(LEAST_LU, Math.ceil((most - Math.min(...all)) / 6) * 6));
  const x = scaleLinear([0, Math.max(1, state.seconds)], [LEFT, Math.max(LEFT + 60, width - 24)]);
  const y = scaleLinear([most, most - range], [8, Math.max(40, height - FOOT)]);
  return (
    <div ref={ref} className="absolute inset-0 mx-5">
      <svg width={width} height={height} role="img" aria-label="Short-term loudness over time">
        {Array.from({ length: range / 6 + 1 }, (_, i) => most - 6 * i).map((v) => (
          <g key={v}>
            <path d={`M${LEFT} ${y(v)}H${width - 8}`} className="stroke-line" />
            <text x={LEFT - 6} y={y(v) + 4} textAnchor="end" className="fill-ink-2 text-[12px]">
              {fixed(v, 0)}
            </text>
          </g>
        ))}
        <text x={LEFT + 4} y={20} className="halo fill-ink-2 text-[12px]">
          LUFS, three seconds at a time, as they came
        </text>
        {x.ticks(8).map((t) => (
          <text key={t} x={x(t)} y={height - 6} textAnchor="middle" className="fill-ink-2 text-[12px]">
            {t} s
          </text>
        ))}
        {lines.map(({ place, found }) => (
          <text
            key={place}
            x={x(found.times.at(-1)!) + 6 + 11 * (place % 2)}
            y={y(Math.max(most - range, found.lufs.at(-1)!)) + 4}
            fill={strokeOf(place).stroke}
            className={`text-[12.5px] ${place === at ? "font-bold" : ""}`}
          >
            {LETTERS[place]}
          </text>
        ))}
        {lines.map(({ place, found }) => (
          <path
            key={place}
            d={`M${found.times
              .map((t, i) => `${x(t).toFixed(1)} ${y(Math.max(most - range, found.lufs[i]!)).toFixed(1)}`)
              .join("L")}`}
            fill="none"
            stroke={strokeOf(place).stroke}
            strokeWidth={place === at ? 2.6 : 1.7}
            strokeDasharray={strokeOf(place).strokeDasharray}
          />
        ))}
      </svg>
    </div>
  );
}

/** The measures side by side. */
export function MovesTable({ state, at }: { state: Comparison; at: number }) {
  return (
    <table className="w-full text-[13px]" aria-label="Dynamics">
      <thead>
        <tr className="text-ink-2">
          <td />
          {state.tracks.map((track, i) => (
            <th
              key={`${track.audio}${track.take}`}
              scope="col"
              title={track.called}
              className={`pb-0.5 text-right font-medium ${i === at ? "font-bold text-ink" : ""}`}
            >
              {LETTERS[i]}
            </th>
          ))}
          <td />
        </tr>
      </thead>
      <tbody>
        {MEASURES.map(([name, field, unit]) => (
          <tr key={field} className="border-t border-line">
            <th scope="row" className="py-1 text-left font-normal">
              {name}
            </th>
            {state.tracks.map((track, i) => {
              const value = dynamicsOf(state, i)?.[field];
              return (
                <td key={`${track.audio}${track.take}`} className="text-right">
                  {value === null || value === undefined ? "–" : fixed(value, 1)}
                </td>
              );
            })}
            <td className="pl-1 text-ink-2">{unit}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
