import {
  CartesianGrid,
  Line,
  LineChart,
  ReferenceArea,
  ReferenceLine,
  ResponsiveContainer,
  Tooltip,
  usePlotArea,
  useYAxisScale,
  XAxis,
  YAxis,
} from "recharts";
import { spread } from "./spread";
import { strokeOf } from "./strokes";
import { fixed, short } from "./table";

export interface FrequencyCurve {
  name: string;
  /** Null where it is not told: the curve has a gap there. */
  values: (number | null)[];
}

const TICKS = [20, 50, 100, 200, 500, 1000, 2000, 5000, 10000, 20000];
const hertz = (f: number) => (f >= 1000 ? `${short(f / 1000)} kHz` : `${short(f)} Hz`);

/** Marks of a logarithmic axis between two values: 1, 2 and 5 of every decade, more of them on a short one. */
function logTicks(low: number, high: number): number[] {
  const of = (digits: number[]) =>
    [-1, 0, 1, 2, 3, 4].flatMap((p) => digits.map((d) => d * 10 ** p)).filter((v) => v >= low && v <= high);
  const usual = of([1, 2, 5]);
  return usual.length >= 4 ? usual : of([1, 2, 3, 5, 8]);
}

/** In px: the room for names at the right, and between two of them. */
const NAMES = { most: 150, letter: 6.4, line: 15 };

/** The name of every curve where it ends, moved apart where curves end close together. */
function Names({ curves }: { curves: FrequencyCurve[] }) {
  const area = usePlotArea();
  const y = useYAxisScale();
  if (!area || !y) return null;
  const within = (at: number) => Math.min(area.y + area.height, Math.max(area.y + 6, at));
  const ends = curves.map((c) => within(Number(y(c.values.findLast((v) => v !== null) ?? 0))));
  const heights = spread(ends, NAMES.line, area.y + area.height);
  const right = area.x + area.width;
  const letters = Math.floor(NAMES.most / NAMES.letter);
  return (
    <g aria-hidden>
      {curves.map(({ name }, i) => (
        <g key={name}>
          <path
            d={`M${right} ${ends[i]!}l4 0L${right + 10} ${heights[i]!}h4`}
            fill="none"
            strokeWidth={1.6}
            stroke={strokeOf(i).stroke}
          />
          <text x={right + 17} y={heights[i]! + 4} className="fill-ink text-[12px]">
            <title>{name}</title>
            {name.length > letters ? `${name.slice(0, letters - 1)}…` : name}
          </text>
        </g>
      ))}
    </g>
  );
}

/** The room the names ask for, in px. */
const roomFor = (curves: FrequencyCurve[]) =>
  24 + Math.min(NAMES.most, NAMES.letter * Math.max(0, ...curves.map((c) => c.name.length)));

/** Curves over one logarithmic frequency axis, with a read-out under the pointer or the keyboard's cursor. */
export default function FrequencyChart({
  frequency,
  curves,
  unit,
  domain,
  logarithmic,
  digits,
  ticks: marks,
  band,
  mark,
}: {
  frequency: number[];
  curves: FrequencyCurve[];
  unit: string;
  domain?: [number, number];
  logarithmic?: boolean;
  /** Decimals in the read-out; three significant digits where left out. */
  digits?: number;
  /** Where the value axis is marked; even steps where left out. */
  ticks?: number[];
  /** What is shaded, and a line across. */
  band?: [number, number];
  mark?: number;
}) {
  const rows = frequency.map((f, i) => {
    const row: Record<string, number | null> = { f };
    for (const curve of curves) row[curve.name] = curve.values[i]!;
    return row;
  });
  const all = curves.flatMap((c) => c.values.filter((v) => v !== null));
  const [low, high] = domain ?? [Math.min(-3, ...all), Math.max(3, ...all)];
  const step = [1, 2, 5, 10, 20].find((s) => (high - low) / s <= 9) ?? 50;
  const ends: [number, number] = [Math.floor(low / step) * step, Math.ceil(high / step) * step];
  const ticks = Array.from(
    { length: Math.round((ends[1] - ends[0]) / step) + 1 },
    (_, i) => ends[0] + i * step,
  );
  const said = (value: number) => `${digits === undefined ? short(value) : fixed(value, digits)} ${unit}`;
  return (
    <ResponsiveContainer width="100%" height="100%">
      <LineChart
        data={rows}
        margin={{ top: 8, right: roomFor(curves), bottom: 2, left: 0 }}
        accessibilityLayer
      >
        <CartesianGrid stroke="var(--line)" strokeOpacity={0.7} />
        <XAxis
          dataKey="f"
          type="number"
          scale="log"
          domain={[20, 20000]}
          ticks={TICKS}
          tickFormatter={(f: number) => (f >= 1000 ? `${f / 1000} kHz` : `${f} Hz`)}
          tick={{ fill: "var(--ink-2)", fontSize: 12 }}
          stroke="var(--line)"
        />
        <YAxis
          scale={logarithmic ? "log" : "linear"}
          domain={logarithmic || marks ? [low, high] : ends}
          ticks={marks ?? (logarithmic ? logTicks(low, high) : ticks)}
          interval={0}
          allowDataOverflow
          tickFormatter={(v: number) => `${short(v)} ${unit}`}
          tick={{ fill: "var(--ink-2)", fontSize: 12 }}
          stroke="var(--line)"
          width={62}
        />
        {band && <ReferenceArea y1={band[0]} y2={band[1]} fill="var(--shoal)" fillOpacity={0.9} />}
        {mark !== undefined && <ReferenceLine y={mark} stroke="var(--ink-2)" strokeDasharray="4 4" />}
        {!logarithmic && <ReferenceLine y={0} stroke="var(--ink-2)" />}
        <Tooltip
          isAnimationActive={false}
          contentStyle={{
            background: "var(--sheet)",
            border: "1px solid var(--line)",
            borderRadius: 6,
            fontSize: 12.5,
            padding: "4px 8px",
          }}
          itemStyle={{ color: "var(--ink)", padding: 0 }}
          labelFormatter={(f) => hertz(Number(f))}
          formatter={(value, name) => [said(Number(value)), name]}
        />
        {curves.map((curve, i) => (
          <Line
            key={curve.name}
            dataKey={curve.name}
            dot={false}
            isAnimationActive={false}
            strokeWidth={2.2}
            {...strokeOf(i)}
          />
        ))}
        <Names curves={curves} />
      </LineChart>
    </ResponsiveContainer>
  );
}
