import { scaleLinear, scaleLog } from "d3-scale";
import { strokeOf } from "../../parts/strokes";
import { fixed } from "../../parts/table";
import { useSize } from "../../parts/useSize";
import type { Schemas } from "../../api/client";

export interface Curve {
  place: number;
  name: string;
  found: Schemas["SpectrumDifference"];
}

const TICKS = [50, 100, 200, 500, 1000, 2000, 5000, 10000];
/** Those that are named where there is little room. */
const FEW = [100, 1000, 10000];
const LEFT = 52;
const FOOT = 22;
const NAME = 132;
const LOW = 40;
const HIGH = 16000;

/** Runs of places that are told, so that nothing is drawn over those that are not. */
function told(curve: Curve): number[][] {
  const runs: number[][] = [];
  curve.found.told.forEach((yes, i) => {
    const f = curve.found.frequency[i]!;
    if (!yes || f < LOW || f > HIGH) return;
    const last = runs.at(-1);
    if (last?.at(-1) === i - 1) last.push(i);
    else runs.push([i]);
  });
  return runs;
}

/** Differences from the reference over frequency: the one that is looked at as water over or under its level. */
export function Water({ curves, at }: { curves: Curve[]; at: number }) {
  const { ref, width, height } = useSize();
  const narrow = width < 560;
  const values = curves.flatMap((c) => told(c).flatMap((run) => run.map((i) => Math.abs(c.found.db[i]!))));
  const most = Math.max(3, Math.ceil((Math.max(0, ...values) + 0.5) / 3) * 3);
  const x = scaleLog([LOW, HIGH], [LEFT, Math.max(LEFT + 50, width - (narrow ? NAME - 20 : NAME))]);
  const y = scaleLinear([most, -most], [8, Math.max(40, height - FOOT)]);
  const line = (curve: Curve, run: number[], add = 0) =>
    run
      .map((i) => {
        const value = curve.found.db[i]! + add * curve.found.spread[i]!;
        return `${x(curve.found.frequency[i]!).toFixed(1)} ${y(value).toFixed(1)}`;
      })
      .join("L");
  const marks = [-2, -1, 0, 1, 2].map((n) => (n * most) / 2);
  return (
    <div ref={ref} className="absolute inset-0 mx-5">
      <svg width={width} height={height} role="img" aria-label="Difference from the reference over frequency">
        {marks.map((v) => (
          <g key={v}>
            <path d={`M${LEFT} ${y(v)}H${x(HIGH)}`} className={v ? "stroke-line" : "stroke-ink-2"} />
            <text x={LEFT - 6} y={y(v) + 4} textAnchor="end" className="fill-ink-2 text-[12px]">
              {`${v > 0 ? "+" : ""}${fixed(v, Number.isInteger(v) ? 0 : 1)} dB`}
            </text>
          </g>
        ))}
        {TICKS.map((f) => (
          <g key={f}>
            <path d={`M${x(f)} 8V${height - FOOT}`} className="stroke-line" opacity={0.7} />
            {(!narrow || FEW.includes(f)) && (
              <text x={x(f)} y={height - 6} textAnchor="middle" className="fill-ink-2 text-[12px]">
                {f >= 1000 ? `${f / 1000} kHz` : `${f} Hz`}
              </text>
            )}
          </g>
        ))}
        {curves.map((curve) => {
          const here = curve.place === at;
          return (
            <g key={curve.place}>
              {told(curve).map((run) => (
                <g key={run[0]}>
                  {here && run.length > 1 && (
                    <>
                      <path
                        d={`M${x(curve.found.frequency[run[0]!]!)} ${y(0)}L${line(curve, run)}L${x(curve.found.frequency[run.at(-1)!]!)} ${y(0)}Z`}
                        className="fill-water"
                        opacity={0.45}
                      />
                      <path
                        d={`M${line(curve, run, 1)}L${line(curve, [...run].reverse(), -1)}Z`}
                        fill={strokeOf(curve.place).stroke}
                        opacity={0.18}
                      />
                    </>
                  )}
                  <path
                    d={`M${line(curve, run)}`}
                    fill="none"
                    stroke={strokeOf(curve.place).stroke}
                    strokeWidth={here ? 2.6 : 1.7}
                    strokeDasharray={here ? undefined : strokeOf(curve.place).strokeDasharray || "5 4"}
                  />
                </g>
              ))}
            </g>
          );
        })}
        <Names curves={curves} at={at} x={x(HIGH)} y={y} bottom={height - FOOT} />
      </svg>
    </div>
  );
}

function Names({
  curves,
  at,
  x,
  y,
  bottom,
}: {
  curves: Curve[];
  at: number;
  x: number;
  y: (v: number) => number;
  bottom: number;
}) {
  const ends = curves
    .map((curve) => {
      const last = told(curve).at(-1)?.at(-1);
      return { curve, y: y(last === undefined ? 0 : curve.found.db[last]!) };
    })
    .sort((a, b) => a.y - b.y);
  let above = 0;
  const placed = ends.map((end) => {
    above = Math.min(bottom, Math.max(end.y, above + 15));
    return { ...end, text: above };
  });
  return (
    <g>
      {placed.map(({ curve, text }) => (
        <text
          key={curve.place}
          x={x + 8}
          y={text + 4}
          fill={strokeOf(curve.place).stroke}
          className={`text-[12.5px] ${curve.place === at ? "font-bold" : ""}`}
        >
          {curve.name.length > 19 ? `${curve.name.slice(0, 18)}…` : curve.name}
        </text>
      ))}
    </g>
  );
}
