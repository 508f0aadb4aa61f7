import { useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import { strokeOf } from "../../parts/strokes";
import { fixed } from "../../parts/table";
import { useSize } from "../../parts/useSize";
import { LETTERS, type Blend, type Doc } from "./useBlend";

const NAMES = 184;
const FOOT = 22;
const RATE = 48;
/** At least so far apart stand the times below. */
const MARK_PX = 46;
const DELAY = [-5, 20] as const;
/** From when to when is seen, ms from where the first begins; the closest first. */
const VIEWS = [
  [-0.5, 2.5],
  [-1, 5],
  [-1, 11],
  [-2, 23],
] as const;

const held = (delay: number) => Math.round(Math.min(DELAY[1], Math.max(DELAY[0], delay)) * 100) / 100;

/** The impulse responses on one time axis, to be slid into line: by drag, by arrows, or typed beside them. */
export function Strips({
  state,
  doc,
  at,
  onAt,
  onDelay,
}: {
  state: Blend;
  doc: Doc;
  at: number;
  onAt: (place: number) => void;
  onDelay: (place: number, delay: number) => void;
}) {
  const { ref, width, height } = useSize();
  const [zoom, setZoom] = useState(2);
  /** A strip on its way, before it is let go: its place and delay. */
  const [sliding, setSliding] = useState<{ place: number; delay: number }>();
  const from = useRef<{ px: number; delay: number }>(undefined);
  const [first, last] = VIEWS[zoom]!;
  const room = Math.max(120, width - NAMES - 10);
  const rows = Math.max(1, state.parts.length);
  const row = Math.max(34, Math.min(78, (height - FOOT) / rows));
  const begins = state.parts.find((p) => !p.gone)?.begins ?? 0;
  const x = (ms: number) => NAMES + ((ms - first) / (last - first)) * room;
  const delayOf = (place: number) =>
    sliding?.place === place ? sliding.delay : (doc.parts[place]?.delay ?? 0);
  const closer = (by: number) => setZoom(Math.min(VIEWS.length - 1, Math.max(0, zoom + by)));
  const onKey = (event: KeyboardEvent, place: number) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const step = event.shiftKey ? 0.1 : 0.01;
    const run = {
      ArrowLeft: () => onDelay(place, held(delayOf(place) - step)),
      ArrowRight: () => onDelay(place, held(delayOf(place) + step)),
      Home: () => onDelay(place, 0),
      "+": () => closer(-1),
      "=": () => closer(-1),
      "-": () => closer(1),
      "0": () => setZoom(2),
    }[event.key];
    if (!run) return;
    event.preventDefault();
    event.stopPropagation();
    run();
  };
  const step = [0.5, 1, 2, 5].find((s) => (s / (last - first)) * room >= MARK_PX) ?? 5;
  const marks = Array.from(
    { length: Math.floor((last - first) / step) + 1 },
    (_, i) => Math.ceil(first / step) * step + i * step,
  ).filter((t) => t <= last);
  const foot = row * rows;
  return (
    <div
      ref={ref}
      className="relative min-h-0 flex-1 overflow-hidden"
      onWheel={(event) => event.shiftKey && closer(event.deltaY < 0 ? -1 : 1)}
    >
      <svg width={width} height={foot + FOOT} aria-hidden className="absolute inset-0">
        {marks.map((t) => (
          <g key={t}>
            <path d={`M${x(t)} 0V${foot + 4}`} className="stroke-line" strokeOpacity={0.7} />
            <text
              x={Math.min(width - 24, x(t))}
              y={foot + 17}
              textAnchor="middle"
              className="fill-ink-2 text-[12px]"
            >
              {fixed(t, step < 1 ? 1 : 0)}
              {t === marks.at(-1) ? " ms" : ""}
            </text>
          </g>
        ))}
      </svg>
      {state.parts.map((part, place) => {
        const delay = delayOf(place);
        const recorded = part.begins - begins;
        const turned = doc.parts[place]?.inverted ?? false;
        const half = row / 2 - 5;
        const path = part.strip
          .map((v, i) => {
            const ms = i / RATE - begins + delay;
            return ms < first - 0.05 || ms > last + 0.05
              ? ""
              : `${x(ms).toFixed(1)} ${(row / 2 - (turned ? -v : v) * half).toFixed(1)}`;
          })
          .filter(Boolean)
          .join("L");
        return (
          <div
            key={`${place} ${part.part.impulse}`}
            role="slider"
            tabIndex={0}
            aria-label={`${LETTERS[place]}, ${part.name}: delay`}
            aria-valuemin={DELAY[0]}
            aria-valuemax={DELAY[1]}
            aria-valuenow={delay}
            aria-valuetext={`${fixed(delay, 2)} ms`}
            aria-disabled={part.gone}
            onFocus={() => onAt(place)}
            onKeyDown={(event) => onKey(event, place)}
            onPointerDown={(event: PointerEvent) => {
              onAt(place);
              if (part.gone) return;
              event.currentTarget.setPointerCapture(event.pointerId);
              from.current = { px: event.clientX, delay };
            }}
            onPointerMove={(event) => {
              if (!from.current) return;
              const by = ((event.clientX - from.current.px) / room) * (last - first);
              setSliding({ place, delay: held(from.current.delay + by) });
            }}
            onPointerUp={() => {
              from.current = undefined;
              if (sliding && sliding.delay !== doc.parts[place]?.delay) onDelay(place, sliding.delay);
              setSliding(undefined);
            }}
            onPointerCancel={() => {
              from.current = undefined;
              setSliding(undefined);
            }}
            className={`absolute inset-x-0 cursor-ew-resize touch-pan-y select-none focus-visible:-outline-offset-2 ${part.heard || part.gone ? "" : "opacity-45"}`}
            style={{ top: row * place, height: row }}
          >
            <div
              className="absolute inset-y-0 left-0 flex flex-col justify-center text-[12.5px] leading-tight"
              style={{ width: NAMES - 10 }}
            >
              <span className="line-clamp-2 font-semibold" title={part.name}>
                <span className="text-ink-2">{LETTERS[place]}</span> {part.called}
              </span>
              <span className="truncate text-[12px] text-ink-2">
                {part.gone
                  ? "gone from the library"
                  : [
                      part.about,
                      Math.abs(delay) < 0.005 ? "as recorded" : `slid ${fixed(delay, 2)} ms`,
                      turned ? "turned over" : "",
                    ]
                      .filter(Boolean)
                      .join(" · ")}
              </span>
            </div>
            <svg width={width} height={row} aria-hidden className="absolute inset-0">
              <rect
                x={NAMES}
                y={2}
                width={room}
                height={row - 4}
                rx={3}
                className={at === place ? "fill-sheet stroke-deep" : "fill-sheet stroke-line"}
                strokeWidth={at === place ? 2 : 1}
                fillOpacity={0.75}
              />
              <path d={`M${NAMES} ${row / 2}h${room}`} className="stroke-line" />
              {!part.gone && delay !== 0 && recorded >= first && recorded <= last && (
                <path d={`M${x(recorded)} 5V${row - 5}`} className="stroke-ink-2" strokeDasharray="3 3" />
              )}
              {path && (
                <path
                  d={`M${path}`}
                  fill="none"
                  stroke={strokeOf(place + 1).stroke}
                  strokeWidth={1.8}
                  strokeLinejoin="round"
                />
              )}
            </svg>
          </div>
        );
      })}
    </div>
  );
}
