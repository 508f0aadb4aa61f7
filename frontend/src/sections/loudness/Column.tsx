import { useRef, useState, type KeyboardEvent } from "react";
import { spread } from "./spread";
import { dba, type Rung } from "./useLoudness";

/** A rung with the level it leads to at the chosen place. */
export type Placed = Rung & { level: number };

interface Props {
  name: string;
  rungs: Placed[];
  x: number;
  width: number;
  /** The foot of the scale, where the names stand. */
  foot: number;
  y: (level: number) => number;
  wanted: number;
  near: number;
  chosen?: Rung;
  onChoose: (rung: Rung) => void;
}

const LABEL = 13;
/** With more rungs than this only those that matter are labelled. */
const SPARSE = 10;

const textOf = (rung: Placed, close: boolean) =>
  rung.is_now ? "fill-ink font-bold" : close ? "fill-ink font-semibold" : "fill-ink-2";

/** The rungs of one box on the staff. One stop for Tab; the arrows go up and down, Enter takes hold of a rung. */
export function Column({ name, rungs, x, width, foot, y, wanted, near, chosen, onChoose }: Props) {
  const box = useRef<SVGGElement>(null);
  const [focused, setFocused] = useState<string>();
  const off = (rung: Placed) => Math.abs(rung.level - wanted);
  const best = rungs.reduce((a, b) => (off(b) < off(a) ? b : a));
  const at = (position?: string) => rungs.find((r) => r.position === position);
  const stop = at(chosen?.position) ?? best;
  const now = rungs.find((r) => r.is_now);
  const sparse = rungs.length <= SPARSE;
  const rows = sparse
    ? spread(
        rungs.map((r) => y(r.level)),
        LABEL,
      )
    : rungs.map((r) => y(r.level));
  // The one that matters more keeps its label where two would lie on each other.
  const labelled = sparse
    ? rungs
    : [at(focused), at(chosen?.position), now, best].reduce<Placed[]>(
        (kept, r) =>
          r && kept.every((k) => Math.abs(y(k.level) - y(r.level)) >= LABEL) ? [...kept, r] : kept,
        [],
      );
  const levels = rungs.map((r) => r.level);
  const keyed = (event: KeyboardEvent, rung: Placed) => {
    const by = { ArrowUp: 1, ArrowDown: -1 }[event.key];
    if (by) {
      const order = [...rungs].sort((a, b) => a.level - b.level);
      const next = order[order.indexOf(rung) + by];
      if (next) box.current?.querySelector<SVGGElement>(`[data-at="${rungs.indexOf(next)}"]`)?.focus();
    } else if (event.key === "Enter" || event.key === " ") onChoose(rung);
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
      {rungs.map((rung, i) => {
        const held = chosen?.position === rung.position;
        const close = off(rung) <= near;
        const ink = rung.is_now ? "stroke-ink" : close ? "stroke-deep" : "stroke-ink-2";
        return (
          <g
            key={rung.position}
            data-at={i}
            role="button"
            tabIndex={rung === stop ? 0 : -1}
            aria-label={`${name} ${rung.position}: ${dba(rung.level)}${rung.is_now ? ", as it stands" : ""}`}
            aria-pressed={held}
            onClick={() => onChoose(rung)}
            onKeyDown={(event) => keyed(event, rung)}
            onFocus={() => setFocused(rung.position)}
            onBlur={() => setFocused(undefined)}
            className="cursor-pointer"
          >
            <rect x={x} y={y(rung.level) - 5} width={width - 6} height={10} fill="transparent" />
            <path
              d={`M${x + 3} ${y(rung.level)}h22`}
              className={ink}
              strokeWidth={rung.is_now || held ? 5 : close ? 4 : 2.2}
            />
            {rung.is_now && <circle cx={x + 14} cy={y(rung.level)} r={5} className="fill-ink" />}
            {labelled.includes(rung) && (
              <text x={x + 31} y={rows[i]! + 4} className={`halo text-[12px] ${textOf(rung, close)}`}>
                {rung.position}
              </text>
            )}
          </g>
        );
      })}
      <text x={x + 2} y={foot + 16} className="fill-ink text-[12.5px] font-semibold">
        {name}
      </text>
      <text x={x + 2} y={foot + 31} className="fill-ink-2 text-[11.5px]">
        {now ? "in use" : rungs.length === 1 ? "beside the speaker" : `${rungs.length} positions`}
      </text>
    </g>
  );
}
