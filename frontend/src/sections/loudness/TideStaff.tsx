import { range } from "d3-array";
import { scaleLinear } from "d3-scale";
import { useRef, type KeyboardEvent, type PointerEvent } from "react";
import { about, signed } from "../../parts/table";
import { Column, type Placed } from "./Column";
import { spread } from "../../parts/spread";
import { dba, wished, type Step, type Plan } from "./useLoudness";

const TOP = 16;
const BOTTOM = 42;
const NUMBERS = 46;
/** For the marks of daily life, where there is room. */
const DAILY = 118;
const MARKS = 176;
/** Kept free on the right for what is said of the lines across. */
const SIDE = 122;
const LABEL_GAP = 15;

interface Props {
  plan: Plan;
  width: number;
  height: number;
  /** The level that is wished for, dBA: the waterline. */
  wanted: number;
  chosen?: Step;
  onWanted: (level: number) => void;
  onChoose: (step: Step) => void;
}

interface Kept {
  id: string;
  title: string;
  about: string;
  at: number;
}

/** Marks down the scale: the chosen place's limit where it is, the others' where they are kept. */
function marksOf(plan: Plan): Kept[] {
  const found = plan.bounds.flatMap(({ place, name, limit, here }): Kept[] => {
    const own = place === plan.place;
    const at = own ? limit.level : here;
    const kept = here == null ? "not by this alone" : `kept while ${Math.round(here)} here`;
    const about = own ? `${limit.start} to ${limit.end}, ${kept}` : kept;
    return at == null ? [] : [{ id: place, title: `${name}: ${dba(limit.level ?? 0)}`, about, at }];
  });
  const thumb = plan.rule_of_thumb;
  if (thumb == null) return found;
  const title = `Rule of thumb: about ${dba(thumb)}`;
  return [...found, { id: "", title, about: "by day; nothing else is known", at: thumb }];
}

/** The ladders that lead to a level at the chosen place, each step with it. */
function columnsOf(plan: Plan, at: number) {
  return plan.ladders
    .map((ladder) => ({
      ...ladder,
      steps: ladder.steps.flatMap((step): Placed[] => {
        const level = step.levels[at];
        return level == null ? [] : [{ ...step, level }];
      }),
    }))
    .filter((ladder) => ladder.steps.length > 0);
}

/** A tall scale in dBA: limits are marks on it, the steps of what is owned are steps, the wish is the waterline. */
export function TideStaff({ plan, width, height, wanted, chosen, onWanted, onChoose }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const at = plan.places.findIndex((p) => p.place === plan.place);
  const here = plan.places[at];
  const full = plan.full[at] ?? null;
  const rest = plan.rest[at] ?? null;
  const marks = marksOf(plan);
  const columns = columnsOf(plan, at);
  const all = columns.flatMap((c) => c.steps.map((r) => r.level));
  const levels = [
    wanted,
    ...(full != null ? [full] : []),
    ...(here?.dba != null ? [here.dba] : []),
    ...marks.map((m) => m.at),
    ...all,
  ];
  const most = Math.min(140, Math.ceil((Math.max(...levels) + 4) / 10) * 10);
  const least = Math.max(0, Math.floor((Math.min(...levels) - 4) / 10) * 10);
  const y = scaleLinear([most, Math.min(least, most - 10)], [TOP, height - BOTTOM]);
  const daily = width > 720 ? plan.marks!.filter((m) => m.level > least && m.level < most) : [];
  const SCALE = NUMBERS + (width > 720 ? DAILY : 12);
  const known = spread(
    daily.map((m) => y(m.level)),
    LABEL_GAP - 2,
  );
  const left = SCALE + MARKS;
  const column = Math.min(220, (width - left - SIDE) / Math.max(1, columns.length));
  /** The level here up to which every limit is kept: what is wished above it is not drawn as water. */
  const floats = Math.max(least, Math.min(140, ...marks.map((m) => m.at)));
  const move = (event: PointerEvent<SVGElement>) => {
    const box = svg.current!.getBoundingClientRect();
    onWanted(
      Math.round(
        y
          .copy()
          .clamp(true)
          .invert(event.clientY - box.top),
      ),
    );
  };
  const keyed = (event: KeyboardEvent) => {
    const by = { ArrowUp: 1, ArrowDown: -1, PageUp: 5, PageDown: -5 }[event.key];
    if (by) onWanted(Math.min(140, Math.max(0, wanted + by)));
    else if (event.key === "[" || event.key === "]") {
      const steps = all.toSorted((a, b) => a - b);
      const next =
        event.key === "]" ? steps.find((l) => l > wanted + 0.05) : steps.findLast((l) => l < wanted - 0.05);
      if (next !== undefined) onWanted(Math.min(140, Math.max(0, next)));
    } else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const now = here?.dba ?? null;
  const labels = spread(
    // One that lies on the waterline stands above it, so that it is not struck through.
    [
      ...marks.map((m) => y(m.at) - (Math.abs(y(m.at) - y(wanted)) < 10 ? 7 : 0)),
      ...(now == null ? [] : [y(now) + (now > wanted ? -4 : 14)]),
    ],
    LABEL_GAP * 2,
  );
  const ticks = range(least, most + 1, 10);
  return (
    <svg
      ref={svg}
      width={width}
      height={height}
      className="block touch-none select-none"
      role="group"
      aria-label={`Tide staff for ${here?.name ?? "no place"}`}
    >
      <rect
        x={SCALE}
        y={y(wanted)}
        width={width - SCALE - 8}
        height={height - BOTTOM - y(wanted)}
        className="fill-shoal"
      />
      {wanted > floats && (
        <rect
          x={SCALE}
          y={y(wanted)}
          width={width - SCALE - 8}
          height={y(floats) - y(wanted)}
          className="fill-caution-wash"
        />
      )}
      {ticks.map((level) => (
        <g key={level}>
          <path d={`M${SCALE} ${y(level)}H${width - 8}`} className="stroke-line" strokeOpacity={0.6} />
          <text x={SCALE - 8} y={y(level) + 4} textAnchor="end" className="fill-ink-2 text-[12px]">
            {level}
          </text>
        </g>
      ))}
      {daily.map((mark, i) => (
        <g key={`${mark.name} ${mark.level}`}>
          <path
            d={`M${DAILY - 14} ${known[i]! - 4}L${DAILY} ${y(mark.level)}h10`}
            fill="none"
            className="stroke-ink-2"
          />
          <text x={DAILY - 18} y={known[i]!} textAnchor="end" className="fill-ink-2 text-[11.5px]">
            {mark.name}
          </text>
        </g>
      ))}
      <text x={SCALE + 6} y={TOP - 4} className="fill-ink-2 text-[11.5px]">
        dBA
      </text>
      <path d={`M${SCALE} ${TOP}V${height - BOTTOM}`} className="stroke-ink" strokeWidth={2} />
      {here?.dba != null && (
        <g>
          <rect
            x={SCALE + 1}
            y={y(here.dba + here.spread.up)}
            width={7}
            height={Math.max(2, y(here.dba - here.spread.down) - y(here.dba + here.spread.up))}
            className={here.dba > floats ? "fill-caution-fill" : "fill-water"}
          />
          <path d={`M${SCALE - 6} ${y(here.dba)}h20`} className="stroke-ink" strokeWidth={2.5} />
          <text x={SCALE + 18} y={labels.at(-1)} className="halo fill-ink text-[12px] font-semibold">
            now {dba(here.dba)}, {about(here.spread)}
          </text>
        </g>
      )}
      {full != null && (
        <g>
          <path d={`M${left} ${y(full)}H${width - 8}`} className="stroke-ink-2" strokeDasharray="6 4" />
          <text textAnchor="end" className="halo fill-ink-2 text-[12px]">
            <tspan x={width - 10} y={y(full) - 19}>
              nothing between
            </tspan>
            <tspan x={width - 10} y={y(full) - 5}>
              {dba(full)}
            </tspan>
          </text>
        </g>
      )}
      <g>
        <path d={`M${SCALE} ${y(wanted)}H${width - 8}`} className="stroke-deep" strokeWidth={3} />
        <path d={`M${SCALE} ${y(wanted)}l-9 -6v12z`} className="fill-deep" />
      </g>
      {rest != null && rest > least && (
        <g>
          <path
            d={`M${left} ${y(rest)}H${width - 8}`}
            className="stroke-ink-2"
            strokeDasharray="2 4"
            strokeWidth={2}
          />
          <text x={width - 10} y={y(rest) + 14} textAnchor="end" className="halo fill-ink-2 text-[12px]">
            all else {dba(rest)}
          </text>
        </g>
      )}
      {columns.map(({ unit, name, steps }, i) => (
        <Column
          key={unit}
          name={name}
          steps={steps}
          x={left + i * column}
          width={column}
          foot={height - BOTTOM}
          y={y}
          wanted={wanted}
          near={plan.near_db}
          chosen={chosen?.unit === unit ? chosen : undefined}
          onChoose={onChoose}
        />
      ))}
      <g
        role="slider"
        tabIndex={0}
        aria-label={`Wanted level at ${here?.name ?? ""}`}
        aria-valuemin={0}
        aria-valuemax={140}
        aria-valuenow={Math.round(wanted)}
        aria-valuetext={`${wished(wanted)}${full != null ? `, ${signed(wanted - full)} dB against nothing between` : ""}`}
        onKeyDown={keyed}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          move(event);
        }}
        onPointerMove={(event) => event.buttons === 1 && move(event)}
        className="cursor-ns-resize"
      >
        <rect x={SCALE} y={y(wanted) - 9} width={width - SCALE - 8} height={18} fill="transparent" />
        <rect x={width - 118} y={y(wanted) + 4} width={108} height={18} rx={4} className="fill-deep" />
        <text
          x={width - 64}
          y={y(wanted) + 17}
          textAnchor="middle"
          className="fill-paper text-[12px] font-bold"
        >
          wanted {wished(wanted)}
        </text>
      </g>
      {marks.map((mark, i) => (
        <g key={mark.id} pointerEvents="none">
          <path
            d={`M${SCALE} ${y(mark.at)}h12L${SCALE + 26} ${labels[i]! + 4}h${MARKS - 36}`}
            fill="none"
            className="stroke-caution"
            strokeWidth={2}
          />
          <text x={SCALE + 28} y={labels[i]!} className="halo fill-caution text-[12px] font-semibold">
            {mark.title}
          </text>
          <text x={SCALE + 28} y={labels[i]! + 17} className="halo fill-ink-2 text-[11.5px]">
            {mark.about}
          </text>
        </g>
      ))}
    </svg>
  );
}
