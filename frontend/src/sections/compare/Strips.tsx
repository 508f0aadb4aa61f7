import { keepPreviousData, useQueries } from "@tanstack/react-query";
import { useEffect, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import { answer, api } from "../../api/client";
import { strokeOf } from "../../parts/strokes";
import { fixed } from "../../parts/table";
import { useSize } from "../../parts/useSize";
import { LEAST_S, MOST_S } from "./PartFields";
import { LETTERS, type Comparison, type Part } from "./useComparison";
import type { Together } from "./usePlayTogether";

const NAMES = 168;
const FOOT = 22;
const FULL = 32767;
/** The least that is shown at one time, s. */
const CLOSEST_S = 0.5;

function outline(
  low: readonly number[],
  high: readonly number[],
  width: number,
  middle: number,
  half: number,
) {
  const x = (i: number) => (((i + 0.5) * width) / low.length).toFixed(1);
  const y = (v: number) => middle - (v / FULL) * half;
  const up = high.map((v, i) => `${x(i)} ${y(v).toFixed(1)}`);
  const down = low.map((v, i) => `${x(i)} ${Math.max(y(v), y(high[i]!) + 0.6).toFixed(1)}`).reverse();
  return `M${up.join("L")}L${down.join("L")}Z`;
}

const seconds = (at: number) => `${fixed(at, 1)} s`;

/** All recordings on the time of the reference, one under the other, with the part that is played in a loop. */
export function Strips({
  state,
  at,
  onAt,
  part,
  onPart,
  together,
  onToggle,
}: {
  state: Comparison;
  /** The recording whose difference is shown, by its place. */
  at: number;
  onAt: (place: number) => void;
  part: Part;
  onPart: (part: Part) => void;
  together: Together;
  onToggle: () => void;
}) {
  const { ref, width, height } = useSize();
  const room = Math.max(120, width - NAMES - 8);
  const row = Math.max(34, (height - FOOT) / Math.max(1, state.tracks.length));
  const columns = Math.min(2000, Math.max(50, Math.round(room)));
  // Until it is known how long they all are, at least what is played is shown.
  const length = state.seconds || part.stop || 1;
  const [looked, look] = useState<Part>();
  const view = looked && looked.stop <= length ? looked : { start: 0, stop: length };
  const span = view.stop - view.start;
  const zoom = (by: number, about = (part.start + part.stop) / 2) => {
    const whole = Math.min(length, Math.max(CLOSEST_S, span * by));
    const kept = about >= view.start && about <= view.stop ? about : part.start;
    const start = Math.min(length - whole, Math.max(0, kept - ((kept - view.start) / span) * whole));
    look(whole >= length ? undefined : { start, stop: start + whole });
  };
  const traces = useQueries({
    queries: state.tracks.map((track) => ({
      queryKey: ["strip", state.id, state.tracks[0]?.audio, track.audio, columns, state.seconds, view],
      queryFn: () =>
        answer(
          api.GET("/api/comparisons/{comparison_id}/waveform/{audio}", {
            params: {
              path: { comparison_id: state.id, audio: track.audio },
              query: { start: view.start, stop: looked ? view.stop : Math.ceil(length * 100) / 100, columns },
            },
          }),
        ),
      enabled: track.heard,
      staleTime: Infinity,
      placeholderData: keepPreviousData,
    })),
  });
  // All by one scale: that they are as loud is to be seen.
  const top = Math.max(1, ...traces.flatMap((t) => t.data?.high[0]?.map(Math.abs) ?? []));
  const [place, setPlace] = useState<number>();
  useEffect(() => {
    if (!together.isPlaying) return setPlace(undefined);
    let frame = requestAnimationFrame(function step() {
      setPlace(together.place());
      frame = requestAnimationFrame(step);
    });
    return () => cancelAnimationFrame(frame);
  }, [together, together.isPlaying]);
  const x = (s: number) => NAMES + ((s - view.start) / span) * room;
  const from = useRef<number>(undefined);
  const seen = (event: PointerEvent) => {
    const px = event.clientX - event.currentTarget.getBoundingClientRect().left;
    return Math.min(view.stop, Math.max(view.start, view.start + ((px - NAMES) / room) * span));
  };
  const drag = (event: PointerEvent) => {
    if (from.current === undefined) return;
    const [a, b] = [from.current, seen(event)].sort((p, q) => p - q) as [number, number];
    if (b - a >= LEAST_S) onPart({ start: round(a), stop: round(Math.min(b, a + MOST_S)) });
  };
  const onKey = (event: KeyboardEvent) => {
    const by = { ArrowLeft: -0.1, ArrowRight: 0.1 }[event.key];
    const closer = { "+": 0.5, "=": 0.5, "-": 2, "0": Infinity }[event.key];
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (event.key === "Enter") onToggle();
    else if (closer) zoom(closer);
    else if (event.key === "ArrowUp") onAt(Math.max(0, at - 1));
    else if (event.key === "ArrowDown") onAt(Math.min(state.tracks.length - 1, at + 1));
    else if (by !== undefined) {
      // With shift its end alone, otherwise all of it.
      const stop = Math.min(length, part.stop + by);
      const start = event.shiftKey ? part.start : Math.max(0, part.start + by);
      if (stop - start >= LEAST_S && stop - start <= MOST_S)
        onPart({ start: round(start), stop: round(stop) });
    } else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const foot = height - FOOT;
  const held = (px: number) => Math.min(NAMES + room, Math.max(NAMES, px));
  const seenNow = (s: number) => s >= view.start && s <= view.stop;
  return (
    <div
      ref={ref}
      role="slider"
      tabIndex={0}
      aria-label="The part that is played"
      aria-valuemin={0}
      aria-valuemax={Number(length.toFixed(1))}
      aria-valuenow={part.start}
      aria-valuetext={`${seconds(part.start)} to ${seconds(part.stop)}`}
      onKeyDown={onKey}
      onWheel={(event) => {
        const px = event.clientX - event.currentTarget.getBoundingClientRect().left;
        zoom(event.deltaY < 0 ? 0.8 : 1.25, view.start + ((px - NAMES) / room) * span);
      }}
      className="relative min-h-0 flex-1 cursor-text touch-none select-none"
      onPointerDown={(event) => {
        const px = event.clientX - event.currentTarget.getBoundingClientRect().left;
        const py = event.clientY - event.currentTarget.getBoundingClientRect().top;
        onAt(Math.min(state.tracks.length - 1, Math.max(0, Math.floor(py / row))));
        if (px < NAMES) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        from.current = seen(event);
      }}
      onPointerMove={drag}
      onPointerUp={(event) => {
        drag(event);
        from.current = undefined;
      }}
    >
      <svg width={width} height={height} role="img" aria-label="Recordings on one time axis">
        {state.tracks.map((track, i) => {
          const middle = row * (i + 0.5);
          const drawn = traces[i]?.data;
          const wide = drawn ? x(drawn.stop) - x(drawn.start) : room;
          return (
            <g key={`${track.audio}${track.take}`}>
              {i === at && <rect x={0} y={row * i} width={width} height={row} className="fill-faint" />}
              {i === at && <rect x={0} y={row * i} width={3} height={row} className="fill-ink" />}
              <foreignObject x={8} y={row * i} width={NAMES - 14} height={row}>
                <div className="flex h-full flex-col justify-center text-[12.5px] leading-tight">
                  <span className="truncate font-semibold" title={track.called}>
                    <span className="text-ink-2">{LETTERS[i]}</span> {track.called}
                  </span>
                  <span className="truncate text-[12px] text-ink-2">
                    {i === 0
                      ? "reference"
                      : track.held?.level
                        ? `${track.match_db > 0 ? "+" : ""}${fixed(track.match_db, 1)} dB to match`
                        : track.lies || (track.state === "gone" ? "recording gone" : "to be compared")}
                  </span>
                </div>
              </foreignObject>
              {drawn?.low[0] ? (
                <svg x={NAMES} width={room} height={row * (i + 1)} overflow="hidden">
                  <path
                    transform={`translate(${x(drawn.start) - NAMES} 0)`}
                    d={outline(
                      drawn.low[0].map((v) => (v * FULL) / top),
                      drawn.high[0]!.map((v) => (v * FULL) / top),
                      wide,
                      middle,
                      row / 2 - 3,
                    )}
                    fill={strokeOf(i).stroke}
                  />
                </svg>
              ) : (
                <path d={`M${NAMES} ${middle}h${room}`} className="stroke-line" />
              )}
            </g>
          );
        })}
        <rect
          x={held(x(part.start))}
          y={0}
          width={Math.max(2, held(x(part.stop)) - held(x(part.start)))}
          height={foot}
          className="fill-water"
          opacity={0.28}
        />
        {[part.start, part.stop].filter(seenNow).map((edge) => (
          <path key={edge} d={`M${x(edge)} 0V${foot}`} className="stroke-deep" strokeWidth={1.6} />
        ))}
        {place !== undefined && seenNow(place) && (
          <path d={`M${x(place)} 0V${foot}`} className="stroke-ink" strokeWidth={1.8} />
        )}
        {timesIn(view).map((t) => (
          <text
            key={t}
            x={Math.min(width - 20, x(t))}
            y={foot + 16}
            textAnchor={t === 0 ? "start" : "middle"}
            className="fill-ink-2 text-[12px]"
          >
            {Number(t.toFixed(1))} s
          </text>
        ))}
      </svg>
    </div>
  );
}

const round = (value: number) => Math.round(value * 100) / 100;

/** Where a time is written under what is seen, s. */
function timesIn({ start, stop }: Part) {
  const step = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 30, 60].find((s) => (stop - start) / s <= 9) ?? 120;
  const first = Math.ceil(start / step);
  return Array.from({ length: Math.floor(stop / step) - first + 1 }, (_, i) => (first + i) * step);
}
