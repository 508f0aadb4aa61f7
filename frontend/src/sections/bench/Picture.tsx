import { useLayoutEffect, useRef, useState } from "react";
import type { BenchState, Change, End } from "../../api/client";
import { useStable } from "../../parts/useStable";
import { CompactCard } from "./CompactCard";
import { runs, type Run } from "./routing";
import { UnitCard } from "./UnitCard";

interface Props {
  state: BenchState;
  lit: { units: Set<string>; leads: Set<string> };
  selected?: End;
  /** All units at once, small: names, marks and leads, no controls. */
  overview: boolean;
  onSelect: (end: End) => void;
  onChange: (changes: Change[]) => void;
  onFocusUnit: (unit: string) => void;
}

/** Whether two sets of runs are drawn the same. */
const same = (one: Run[], other: Run[]) =>
  one.length === other.length && one.every((run, n) => run.link === other[n]!.link && run.d === other[n]!.d);

const STROKE: Record<string, string> = { stop: "stroke-stop", caution: "stroke-caution" };
const DASH: Record<string, string | undefined> = {
  instrument: "7 4",
  microphone: "1.5 4",
  digital: "9 3 1.5 3",
  air: "1.5 8",
};

function Lead({ run, severity, lit }: { run: Run; severity: string; lit: boolean }) {
  const speaker = run.link.level === "speaker";
  const ink = STROKE[severity] ?? (speaker ? "stroke-ink" : "stroke-deep");
  return (
    <g fill="none">
      {lit && (
        <path d={run.d} className="stroke-water" strokeOpacity={0.7} strokeWidth={15} strokeLinecap="round" />
      )}
      <path
        d={run.d}
        className={ink}
        strokeWidth={speaker ? 6.5 : 2.4}
        strokeDasharray={DASH[run.link.level]}
      />
      {speaker && <path d={run.d} className="stroke-paper" strokeWidth={1.8} />}
      {!run.link.b && (
        <circle
          cx={Number(run.d.split(" ").at(-2))}
          cy={Number(run.d.split(" ").at(-1))}
          r={5}
          className={`fill-paper ${ink}`}
          strokeWidth={2}
        />
      )}
    </g>
  );
}

const LEVELS: Record<string, string> = {
  speaker: "speaker level",
  line: "line",
  instrument: "instrument",
  microphone: "microphone",
  phones: "headphones",
  air: "air",
};

/** The strokes of the leads that are in the picture. */
function Legend({ levels }: { levels: string[] }) {
  return (
    <p
      aria-hidden
      className="no-print sticky bottom-0 left-0 flex w-full justify-end gap-3 bg-paper px-4 py-0.5 text-[11.5px] text-ink-2"
    >
      {Object.entries(LEVELS)
        .filter(([level]) => levels.includes(level))
        .map(([level, name]) => (
          <span key={level} className="flex items-center gap-1.5">
            {name}
            <svg width="26" height="8">
              <path
                d="M0 4h26"
                className={level === "speaker" ? "stroke-ink" : "stroke-deep"}
                strokeWidth={level === "speaker" ? 6 : 2.2}
                strokeDasharray={DASH[level]}
              />
              {level === "speaker" && <path d="M0 4h26" className="stroke-paper" strokeWidth="1.6" />}
            </svg>
          </span>
        ))}
    </p>
  );
}

export function Picture({ state, lit, selected, overview, onSelect, onChange, onFocusUnit }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const [drawn, setDrawn] = useState<Run[]>([]);
  const { links } = state;
  const stand = state.units.map((u) => `${u.id} ${u.column} ${u.row}`).join();
  // Measuring makes the browser lay the page out at once, so only what moves a card or a lead asks for it.
  const draw = useStable(() => {
    if (!box.current) return;
    const found = runs(state, box.current);
    setDrawn((before) => (same(before, found) ? before : found));
  });
  useLayoutEffect(() => {
    const element = box.current;
    if (!element) return;
    draw();
    const watcher = new ResizeObserver(draw);
    watcher.observe(element);
    for (const card of element.querySelectorAll("[data-unit]")) watcher.observe(card);
    return () => watcher.disconnect();
  }, [draw, links, stand, overview]);

  const marks = new Map(state.analysis.marks.map((m) => [m.unit, m]));
  const flows = new Map(state.analysis.flows.map((f) => [f.lead, f]));
  const columns = [...new Set(state.units.map((u) => u.column))].sort((a, b) => a - b);
  const compact = Math.max(100, Math.min(150, (window.innerWidth - 44) / columns.length - 32));
  return (
    <>
      <div
        ref={box}
        className={`relative flex min-h-full w-max min-w-full items-start pt-2.5 pb-14 ${overview ? "gap-[32px] px-5" : "gap-[64px] px-4 xl:gap-[88px] xl:px-7"}`}
      >
        <svg className="pointer-events-none absolute inset-0 size-full overflow-visible" aria-hidden>
          {drawn.map((run) => (
            <Lead
              key={run.link.lead}
              run={run}
              severity={flows.get(run.link.lead)?.severity ?? "fine"}
              lit={lit.leads.has(run.link.lead)}
            />
          ))}
        </svg>
        {columns.map((column) => (
          <div key={column} className={`relative flex flex-col ${overview ? "gap-3" : "gap-5"}`}>
            {state.units
              .filter((u) => u.column === column)
              .sort((a, b) => a.row - b.row)
              .map((unit) =>
                overview ? (
                  <CompactCard
                    key={unit.id}
                    unit={unit}
                    share={state.analysis.shares.find(
                      (s) => s.unit === unit.id && !s.part.startsWith("driver"),
                    )}
                    sees={state.analysis.amps.find((a) => a.unit === unit.id)}
                    severity={marks.get(unit.id)?.severity ?? "fine"}
                    lit={lit.units.has(unit.id)}
                    width={compact}
                    onFocus={() => onFocusUnit(unit.id)}
                  />
                ) : (
                  <UnitCard
                    key={unit.id}
                    unit={unit}
                    share={state.analysis.shares.find(
                      (s) => s.unit === unit.id && !s.part.startsWith("driver"),
                    )}
                    sees={state.analysis.amps.find((a) => a.unit === unit.id)}
                    severity={marks.get(unit.id)?.severity ?? "fine"}
                    match={marks.get(unit.id)?.match ?? "fine"}
                    power={marks.get(unit.id)?.power ?? "fine"}
                    lit={lit.units.has(unit.id)}
                    selected={selected?.unit === unit.id ? selected.socket : undefined}
                    locked={state.is_on}
                    onSelect={onSelect}
                    onChange={onChange}
                  />
                ),
              )}
          </div>
        ))}
        {drawn.map((run) => {
          const flow = flows.get(run.link.lead);
          if (!flow?.text || overview) return null;
          const edge = { stop: "border-stop", caution: "border-caution" }[flow.severity] ?? "border-ink-2";
          return (
            <button
              key={run.link.lead}
              type="button"
              title={`${run.link.name}: ${run.link.summary}`}
              aria-label={`${run.link.name}, ${run.link.summary}, ${flow.text}; see what else may go here`}
              onClick={() => onSelect(run.link.a)}
              style={{ left: run.x, top: run.y }}
              className={`absolute -translate-x-1/2 -translate-y-1/2 rounded-full border bg-paper px-1.5 text-[11.5px] font-semibold whitespace-nowrap ${edge}`}
            >
              {flow.text}
            </button>
          );
        })}
      </div>
      <Legend levels={[...new Set(state.links.map((link) => link.level))]} />
    </>
  );
}
