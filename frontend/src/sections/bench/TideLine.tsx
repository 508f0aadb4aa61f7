import { scaleLinear } from "d3-scale";
import { memo, useState, type ReactNode } from "react";
import type { Stage } from "../../api/client";
import { ChartFrame } from "../../parts/ChartFrame";
import { signed } from "../../parts/table";

const TOP = 8;
const BOTTOM = -26;
const FILL: Record<string, string> = { stop: "fill-stop-wash", caution: "fill-caution-wash" };
const EDGE: Record<string, string> = { stop: "stroke-stop", caution: "stroke-caution" };

/** In px, left of the columns and right of them, and how narrow a column may be. */
const LEFT = 62;
const RIGHT = 30;
const LEAST_PITCH = 84;

/** The stages that find room, in their order: those that warn, those run aground, then the nearest to their limits. */
function inRoom(stages: Stage[], width: number): Stage[] {
  const room = Math.max(1, Math.floor((width - LEFT - RIGHT) / LEAST_PITCH));
  if (stages.length <= room) return stages;
  const rank = (s: Stage) =>
    s.tone !== "floats" ? 0 : s.floor_db !== null && s.level_db < s.floor_db ? 1 : 2;
  const kept = new Set(
    stages.toSorted((a, b) => rank(a) - rank(b) || b.level_db - a.level_db).slice(0, room),
  );
  return stages.filter((s) => kept.has(s));
}

/** A name on two lines at most, so that columns may stand close. */
function lines(name: string, room: number): string[] {
  if (name.length <= room) return [name];
  const cut = name.lastIndexOf(" ", room);
  const rest = cut > 0 ? name.slice(cut + 1) : name.slice(room);
  return [
    cut > 0 ? name.slice(0, cut) : name.slice(0, room),
    rest.length > room ? `${rest.slice(0, room - 1)}…` : rest,
  ];
}

interface Props {
  title: ReactNode;
  /** What the line says as a whole. */
  words: string;
  stages: Stage[];
  /** The stages as they stand, while changes are held. */
  before?: Stage[];
  width: number;
  height: number;
  onLight: (units: string[]) => void;
}

function Chart({ stages, before, width: given, height, onLight }: Omit<Props, "title" | "words">) {
  const left = LEFT;
  /** The word at the last column's floor wants room of its own. */
  const right = stages.at(-1)?.floor_db == null ? 8 : RIGHT;
  const width = Math.max(given, left + right + LEAST_PITCH * stages.length);
  const pitch = (width - left - right) / Math.max(1, stages.length);
  const room = Math.floor(pitch / 7);
  const named = stages.map((stage) => lines(stage.name, room));
  const foot = Math.max(...named.map((n) => n.length)) > 1 ? 50 : 37;
  const plot = height - foot - 6;
  const y = scaleLinear([TOP, BOTTOM], [6, 6 + plot]).clamp(true);
  const bar = Math.min(112, pitch - 14);
  const [at, setAt] = useState<number>();
  const was = new Map(before?.map((stage) => [stage.id, stage]));
  /** Inside the bar; above it where it is low, and above the floor where it has run aground. */
  const labelHeight = ({ id, level_db, floor_db }: Stage) => {
    const top = y(level_db);
    const old = was.get(id)?.level_db;
    if (floor_db !== null && level_db < floor_db)
      return Math.min(top, y(floor_db), ...(old === undefined ? [] : [y(old)])) - 7;
    const inside = y(BOTTOM) - top < 22 ? top - 7 : top + 17;
    // Not across the floor's line.
    const under = floor_db !== null && Math.abs(y(floor_db) + 4 - inside) < 10 ? y(floor_db) + 15 : inside;
    return old !== undefined && Math.abs(y(old) + 4 - under) < 10 ? y(old) + 15 : under;
  };
  const look = (index: number | undefined) => {
    setAt(index);
    onLight(index === undefined ? [] : stages[index]!.units);
  };
  const read = at === undefined ? undefined : stages[at];
  return (
    <div className="relative h-full overflow-x-auto overflow-y-hidden">
      <svg
        width={width}
        height={height}
        role="group"
        aria-label="Tide line: dB to the limit of every stage; arrow keys read it off"
        tabIndex={0}
        onBlur={() => look(undefined)}
        onKeyDown={(event) => {
          const by = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
          if (by) {
            event.preventDefault();
            look(Math.min(stages.length - 1, Math.max(0, (at ?? -by) + by)));
          }
        }}
      >
        <rect x={left} y={6} width={width - left} height={y(0) - 6} className="fill-flood" />
        <rect x={left} y={y(0)} width={width - left} height={y(BOTTOM) - y(0)} className="fill-sheet" />
        {[6, -6, -12, -18, -24].map((db) => (
          <g key={db}>
            <path d={`M${left} ${y(db)}H${width}`} className="stroke-line" strokeOpacity={0.7} />
            <text x={left - 8} y={y(db) + 4} textAnchor="end" className="fill-ink-2 text-[12px]">
              {db > 0 ? `+${db}` : `−${-db}`} dB
            </text>
          </g>
        ))}
        <path d={`M${left} ${y(0)}H${width}`} className="stroke-stop" strokeWidth={1.8} />
        <text x={left - 8} y={y(0) + 4} textAnchor="end" className="fill-stop text-[12px] font-semibold">
          limit
        </text>
        {stages.map((stage, index) => {
          const x = left + pitch * (index + 0.5) - bar / 2;
          const top = y(stage.level_db);
          return (
            <g
              key={stage.id}
              data-stage={stage.id}
              onMouseEnter={() => look(index)}
              onMouseLeave={() => look(undefined)}
            >
              <rect x={left + pitch * index} y={6} width={pitch} height={height - 6} fill="transparent" />
              <rect
                x={x}
                y={top}
                width={bar}
                height={Math.max(0, y(BOTTOM) - top)}
                className={FILL[stage.tone] ?? "fill-water/60"}
              />
              <path
                d={`M${x} ${top}h${bar}`}
                className={EDGE[stage.tone] ?? "stroke-deep"}
                strokeWidth={at === index ? 5 : 3}
              />
              {was.has(stage.id) && was.get(stage.id)!.level_db !== stage.level_db && (
                <path
                  d={`M${x - 5} ${y(was.get(stage.id)!.level_db)}h${bar + 10}`}
                  className="stroke-ink"
                  strokeDasharray="2 3"
                  strokeWidth={2}
                />
              )}
              {stage.floor_db !== null && (
                <>
                  <path
                    d={`M${x - 4} ${y(stage.floor_db)}h${bar + 8}`}
                    className="stroke-ink-2"
                    strokeDasharray="4 4"
                    strokeWidth={1.4}
                  />
                  {(pitch - bar > 36 || index === stages.length - 1) && (
                    <text x={x + bar + 6} y={y(stage.floor_db) + 4} className="fill-ink-2 text-[11px]">
                      floor
                    </text>
                  )}
                </>
              )}
              <text
                x={x + bar / 2}
                y={labelHeight(stage)}
                textAnchor="middle"
                className="fill-ink text-[12px] font-semibold"
              >
                {stage.value}
              </text>
              {named[index]!.map((line, i) => (
                <text
                  key={line}
                  x={x + bar / 2}
                  y={y(BOTTOM) + 15 + 13 * i}
                  textAnchor="middle"
                  className="fill-ink text-[12px] font-semibold"
                >
                  {line}
                </text>
              ))}
              <text
                x={x + bar / 2}
                y={y(BOTTOM) + foot - 7}
                textAnchor="middle"
                className="fill-ink-2 text-[11.5px]"
              >
                {stage.spare}
              </text>
            </g>
          );
        })}
      </svg>
      {read && at !== undefined && (
        <div
          role="status"
          style={{ left: Math.min(left + pitch * at + 8, width - 240) }}
          className="pointer-events-none absolute top-1 z-10 w-max max-w-[240px] rounded border border-line bg-sheet px-2 py-1 text-[12px]"
        >
          <b className="block">{read.name}</b>
          {read.value}, {signed(read.level_db)} dB to its limit
          {was.has(read.id) && `; before ${was.get(read.id)!.value}`}
        </div>
      )}
    </div>
  );
}

export const TideLine = memo(function TideLine({ title, words, ...chart }: Props) {
  const { stages, before } = chart;
  /** Whether stages that find no room are shown too, to be scrolled to. */
  const [all, setAll] = useState(false);
  const shown = all ? stages : inRoom(stages, chart.width - 40);
  const outside = stages.filter((s) => !shown.includes(s));
  const was = new Map(before?.map((stage) => [stage.id, stage]));
  const table = {
    head: ["Stage", "Worst case", "To its limit, dB", "Floor, dB", "Says", ...(before ? ["Before, dB"] : [])],
    rows: stages.map((s) => [
      s.name,
      s.value,
      signed(s.level_db),
      s.floor_db === null ? null : signed(s.floor_db),
      s.severity,
      ...(before ? [was.has(s.id) ? signed(was.get(s.id)!.level_db) : null] : []),
    ]),
  };
  if (stages.length === 0) {
    return (
      <div className="px-5 pt-2 text-[13px]">
        {title}
        <p className="pt-2 text-ink-2">The tide line appears once an amp drives something.</p>
      </div>
    );
  }
  return (
    <ChartFrame
      title={title}
      sentence={`worst case at every stage against its limit. ${words}`}
      table={table}
    >
      {(outside.length > 0 || all) && (
        <p className="absolute top-0 right-2 z-10 rounded bg-sheet/85 px-1.5 text-[12px] text-ink-2">
          {outside.length > 0 &&
            `${outside.length} more outside the picture, at most ${signed(Math.max(...outside.map((s) => s.level_db)))} dB to their limits `}
          <button type="button" className="text-deep underline" onClick={() => setAll(!all)}>
            {all ? "those nearest their limits" : `show all ${stages.length}`}
          </button>
        </p>
      )}
      <Chart
        key={shown.length}
        {...chart}
        stages={shown}
        width={chart.width - 40}
        height={chart.height - 38}
      />
    </ChartFrame>
  );
});
