import { useLayoutEffect, useRef, useState } from "react";
import type { BenchState, Change, End, LinkView } from "../../api/client";
import { UnitCard } from "./UnitCard";

interface Run {
  link: LinkView;
  d: string;
  x: number;
  y: number;
}

interface Props {
  state: BenchState;
  lit: { units: Set<string>; leads: Set<string> };
  selected?: End;
  onSelect: (end: End) => void;
  onChange: (changes: Change[]) => void;
}

const rank = ["fine", "note", "caution", "stop"];

/** The worst finding about each unit. */
function severities(state: BenchState): Map<string, string> {
  const found = new Map<string, string>();
  for (const finding of state.analysis.findings) {
    for (const unit of finding.units ?? []) {
      if (rank.indexOf(finding.severity) > rank.indexOf(found.get(unit) ?? "fine"))
        found.set(unit, finding.severity);
    }
  }
  return found;
}

/** The severity of a unit's own column in the tide line, so that both pictures say the same. */
const stageSeverity = (state: BenchState, prefix: string) =>
  state.analysis.stages.find((s) => s.id.startsWith(prefix))?.severity ?? "fine";

/** Curves between jacks, from where the jacks really stand in the page. */
function runs(state: BenchState, box: HTMLElement): Run[] {
  const frame = box.getBoundingClientRect();
  const at = (end: End) => {
    const ring = box.querySelector(`[data-ring="${CSS.escape(end.unit)}/${CSS.escape(end.socket)}"]`);
    if (!ring) return null;
    const r = ring.getBoundingClientRect();
    return { x: r.x + r.width / 2 - frame.x, y: r.y + r.height / 2 - frame.y };
  };
  const found: Run[] = [];
  for (const link of state.links) {
    const ends = link.b && at(link.b) && at(link.a)!.x > at(link.b)!.x ? [link.b, link.a] : [link.a, link.b];
    const a = at(ends[0]!);
    if (!a) continue;
    const b = ends[1] ? at(ends[1]) : { x: a.x + 46, y: a.y - 22 };
    if (!b) continue;
    const bend = Math.max(link.b ? 28 : 12, Math.abs(b.x - a.x) / 2.2);
    const d = `M${a.x} ${a.y} C ${a.x + bend} ${a.y}, ${b.x - bend} ${b.y}, ${b.x} ${b.y}`;
    const label = link.b ? { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 - 17 } : { x: b.x, y: b.y - 16 };
    found.push({ link, d, ...label });
  }
  return found;
}

const STROKE: Record<string, string> = { stop: "stroke-stop", caution: "stroke-caution" };
const DASH: Record<string, string | undefined> = { instrument: "7 4", microphone: "1.5 4" };

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

export function Picture({ state, lit, selected, onSelect, onChange }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const [drawn, setDrawn] = useState<Run[]>([]);
  useLayoutEffect(() => {
    const element = box.current;
    if (!element) return;
    const draw = () => setDrawn(runs(state, element));
    draw();
    const watcher = new ResizeObserver(draw);
    watcher.observe(element);
    for (const card of element.querySelectorAll("[data-unit]")) watcher.observe(card);
    void document.fonts.ready.then(draw);
    return () => watcher.disconnect();
  }, [state]);

  const worst = severities(state);
  const flows = new Map(state.analysis.flows.map((f) => [f.lead, f]));
  const columns = [...new Set(state.units.map((u) => u.column))].sort((a, b) => a - b);
  return (
    <div
      ref={box}
      className="relative flex min-h-full w-max min-w-full items-start gap-[64px] px-4 xl:gap-[88px] xl:px-7 pt-2 pb-5"
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
        <div key={column} className="relative flex flex-col gap-4">
          {state.units
            .filter((u) => u.column === column)
            .sort((a, b) => a.row - b.row)
            .map((unit) => (
              <UnitCard
                key={unit.id}
                unit={unit}
                share={state.analysis.shares.find((s) => s.unit === unit.id && !s.part.startsWith("driver"))}
                sees={state.analysis.amps.find((a) => a.unit === unit.id)}
                severity={worst.get(unit.id) ?? "fine"}
                match={stageSeverity(state, `match:${unit.id}:`)}
                power={stageSeverity(state, `power:${unit.id}:`)}
                lit={lit.units.has(unit.id)}
                selected={selected}
                locked={state.is_on}
                onSelect={onSelect}
                onChange={onChange}
              />
            ))}
        </div>
      ))}
      {drawn.map((run) => {
        const flow = flows.get(run.link.lead);
        if (!flow?.text) return null;
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
  );
}
