import { useRef, useState, type KeyboardEvent } from "react";
import { spread } from "../../parts/spread";
import { dba, type Step } from "./useLoudness";

/** A step with the level it leads to at the chosen place. */
export type Placed = Step & { level: number };

interface Props {
  name: string;
  steps: Placed[];
  x: number;
  width: number;
  /** The foot of the scale, where the names stand. */
  foot: number;
  y: (level: number) => number;
  wanted: number;
  near: number;
  chosen?: Step;
  onChoose: (step: Step) => void;
}

const LABEL = 13;
/** With more steps than this only those that matter are labelled. */
const SPARSE = 10;

const textOf = (step: Placed, close: boolean) =>
  step.is_now ? "fill-ink font-bold" : close ? "fill-ink font-semibold" : "fill-ink-2";

/** The steps of one box on the staff. One stop for Tab; the arrows go up and down, Enter takes hold of a step. */
export function Column({ name, steps, x, width, foot, y, wanted, near, chosen, onChoose }: Props) {
  const box = useRef<SVGGElement>(null);
  const [focused, setFocused] = useState<string>();
  const off = (step: Placed) => Math.abs(step.level - wanted);
  const best = steps.reduce((a, b) => (off(b) < off(a) ? b : a));
  const at = (position?: string) => steps.find((r) => r.position === position);
  const stop = at(chosen?.position) ?? best;
  const now = steps.find((r) => r.is_now);
  const sparse = steps.length <= SPARSE;
  const rows = sparse
    ? spread(
        steps.map((r) => y(r.level)),
        LABEL,
      )
    : steps.map((r) => y(r.level));
  // The one that matters more keeps its label where two would lie on each other.
  const labelled = sparse
    ? steps
    : [at(focused), at(chosen?.position), now, best].reduce<Placed[]>(
        (kept, r) =>
          r && kept.every((k) => Math.abs(y(k.level) - y(r.level)) >= LABEL) ? [...kept, r] : kept,
        [],
      );
  const levels = steps.map((r) => r.level);
  const keyed = (event: KeyboardEvent, step: Placed) => {
    const by = { ArrowUp: 1, ArrowDown: -1 }[event.key];
    if (by) {
      const order = [...steps].sort((a, b) => a.level - b.level);
      const next = order[order.indexOf(step) + by];
      if (next) box.current?.querySelector<SVGGElement>(`[data-at="${steps.indexOf(next)}"]`)?.focus();
    } else if (event.key === "Enter" || event.key === " ") onChoose(step);
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <g ref={box} role="group" aria-label={name}>
      <path
        d={`M${x + 14} ${y(Math.max(...levels))}V${y(Math.min(...levels))}`}
        className="stroke-line"
        strokeWidth={1.5}
      />
      {steps.map((step, i) => {
        const held = chosen?.position === step.position;
        const close = off(step) <= near;
        const ink = step.is_now ? "stroke-ink" : close ? "stroke-deep" : "stroke-ink-2";
        return (
          <g
            key={step.position}
            data-at={i}
            role="button"
            tabIndex={step === stop ? 0 : -1}
            aria-label={`${name} ${step.position}: ${dba(step.level)}${step.is_now ? ", as it stands" : ""}`}
            aria-pressed={held}
            onClick={() => onChoose(step)}
            onKeyDown={(event) => keyed(event, step)}
            onFocus={() => setFocused(step.position)}
            onBlur={() => setFocused(undefined)}
            className="cursor-pointer"
          >
            <rect x={x} y={y(step.level) - 5} width={width - 6} height={10} fill="transparent" />
            <path
              d={`M${x + 3} ${y(step.level)}h22`}
              className={ink}
              strokeWidth={step.is_now || held ? 5 : close ? 4 : 2.2}
            />
            {step.is_now && <circle cx={x + 14} cy={y(step.level)} r={5} className="fill-ink" />}
            {labelled.includes(step) && (
              <text x={x + 31} y={rows[i]! + 4} className={`halo text-[12px] ${textOf(step, close)}`}>
                {step.position}
              </text>
            )}
          </g>
        );
      })}
      <text x={x + 2} y={foot + 16} className="fill-ink text-[12.5px] font-semibold">
        {name}
      </text>
      <text x={x + 2} y={foot + 31} className="fill-ink-2 text-[11.5px]">
        {now ? "in use" : steps.length === 1 ? "beside the speaker" : `${steps.length} positions`}
      </text>
    </g>
  );
}
