import { Minus, Pause, Play as PlayIcon, Plus, Repeat } from "lucide-react";
import { useCallback, useEffect, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";
import type { Schemas } from "../../api/client";
import { Button, Key } from "../controls";
import { Failed, Loading } from "../states";
import { useSize } from "../useSize";
import type { Loop, Play } from "./usePlay";
import { useTrace } from "./useTrace";

export interface Spot {
  start: number;
  stop: number;
  label: string;
}

const FULL = 32767;
const AXIS = 20;
/** Room over the waveform for what is named there, px. */
const HEAD = 16;
/** The least that is shown at one time: a few dozen samples. */
const CLOSEST = 40;
const LINES_DBFS = [-6, -18];

const amplitude = (dbfs: number) => 10 ** (dbfs / 20);
const dbfs = (value: number) =>
  (value > 0 ? `${(20 * Math.log10(value)).toFixed(1)} dBFS` : "nothing").replace("-", "−");

/** A time in the take: as many decimals as the view can tell apart. */
function clock(seconds: number, span: number): string {
  const digits = span > 30 ? 0 : span > 3 ? 1 : span > 0.3 ? 2 : span > 0.02 ? 3 : 4;
  if (seconds < 60) return `${seconds.toFixed(digits)} s`;
  const minutes = Math.floor(seconds / 60);
  return `${minutes}:${(seconds - 60 * minutes).toFixed(digits).padStart(digits ? digits + 3 : 2, "0")}`;
}

function ticks(start: number, stop: number, room: number): number[] {
  const most = Math.max(2, Math.floor(room / 90));
  const raw = (stop - start) / most;
  const power = 10 ** Math.floor(Math.log10(raw));
  const step = [1, 2, 5, 10].map((n) => n * power).find((s) => s >= raw) ?? raw;
  const first = Math.ceil(start / step);
  return Array.from({ length: Math.floor(stop / step) - first + 1 }, (_, i) => (first + i) * step);
}

/** The outline of one channel: down its peaks and back along its troughs, or its samples one by one. */
function outline(low: number[], high: number[], points: boolean, width: number, mid: number, half: number) {
  const x = (i: number) =>
    ((i + (points ? 0 : 0.5)) * width) / Math.max(1, points ? low.length - 1 : low.length);
  const y = (v: number) => mid - (v / FULL) * half;
  const up = high.map((v, i) => `${x(i).toFixed(1)} ${y(v).toFixed(1)}`);
  if (points) return `M${up.join("L")}`;
  const down = low
    .map((v, i) => `${x(i).toFixed(1)} ${Math.max(y(v), y(high[i]!) + 0.7).toFixed(1)}`)
    .reverse();
  return `M${up.join("L")}L${down.join("L")}Z`;
}

/** A take as its waveform: seen as a whole or down to its samples, played from anywhere, a part of it in a loop.
 *
 * `go`: a place that was asked for from outside; the picture goes there and it is played. */
export function Waveform({
  take,
  play,
  quiet = [],
  spots = [],
  go,
  onWent,
  hints = true,
}: {
  take: Schemas["Take"];
  play: Play;
  quiet?: { start: number; stop: number }[];
  spots?: Spot[];
  go?: { at: Loop; asked: number };
  /** It went there: not a second time when the picture comes back. */
  onWent?: () => void;
  /** Whether there is room to say by which keys it is played. */
  hints?: boolean;
}) {
  const { seconds, rate, channels } = take.measures!;
  const [view, setView] = useState<Loop>({ start: 0, stop: seconds });
  const [cursor, setCursor] = useState(0);
  const [chosen, setChosen] = useState<Loop>();
  const { ref, width, height } = useSize();
  const room = Math.max(80, height - AXIS);
  const columns = Math.min(2000, Math.max(50, Math.round(width)));
  const trace = useTrace(take.id, take.audio!, view.start, view.stop, columns);
  const span = view.stop - view.start;
  const x = (at: number) => ((at - view.start) / span) * width;
  const at = (px: number) => Math.min(seconds, Math.max(0, view.start + (px / width) * span));

  const look = useCallback(
    (start: number, length: number) => {
      const whole = Math.min(seconds, Math.max(CLOSEST / rate, length));
      const first = Math.min(seconds - whole, Math.max(0, start));
      setView({ start: first, stop: first + whole });
    },
    [seconds, rate],
  );
  const zoom = (by: number, about = cursor) => {
    const length = Math.min(seconds, Math.max(CLOSEST / rate, span * by));
    const kept = about >= view.start && about <= view.stop ? about : view.start + span / 2;
    look(kept - ((kept - view.start) / span) * length, length);
  };

  // While it plays the cursor goes with it, and the picture follows.
  useEffect(() => {
    if (!play.isPlaying) return;
    let frame = 0;
    const step = () => {
      const place = play.place();
      if (place !== undefined) {
        setCursor(place);
        setView((v) =>
          place > v.stop && place < seconds - 0.05
            ? {
                start: Math.min(place, seconds - (v.stop - v.start)),
                stop: Math.min(place + v.stop - v.start, seconds),
              }
            : v,
        );
      }
      frame = requestAnimationFrame(step);
    };
    frame = requestAnimationFrame(step);
    return () => cancelAnimationFrame(frame);
  }, [play, seconds]);

  const asked = go?.asked;
  const wanted = useRef(go?.at);
  wanted.current = go?.at;
  const went = useRef(onWent);
  went.current = onWent;
  const begin = play.play;
  useEffect(() => {
    const place = wanted.current;
    if (asked === undefined || !place) return;
    const length = Math.max(place.stop - place.start, 0.01);
    look(place.start - 2 * length - 0.15, 5 * length + 0.4);
    setCursor(place.start);
    void begin(Math.max(0, place.start - 0.15));
    went.current?.();
  }, [asked, look, begin]);

  const toggle = () => {
    if (play.isPlaying) play.stop();
    else void play.play(cursor, chosen);
  };
  const move = (to: number) => {
    const next = Math.min(seconds, Math.max(0, to));
    setCursor(next);
    if (next < view.start || next > view.stop) look(next - span / 2, span);
    if (play.isPlaying) void play.play(next);
  };
  const onKey = (event: KeyboardEvent) => {
    const step = span / (event.shiftKey ? 10 : 100);
    const keys: Record<string, () => void> = {
      " ": toggle,
      ArrowLeft: () => move(cursor - step),
      ArrowRight: () => move(cursor + step),
      Home: () => move(0),
      End: () => move(seconds),
      "+": () => zoom(0.5),
      "=": () => zoom(0.5),
      "-": () => zoom(2),
      "0": () => look(0, seconds),
      l: () =>
        chosen
          ? setChosen(undefined)
          : setChosen({ start: view.start, stop: Math.min(view.stop, view.start + 30) }),
    };
    const run = keys[event.key];
    if (!run || event.ctrlKey || event.metaKey || event.altKey) return;
    event.preventDefault();
    event.stopPropagation();
    run();
  };
  const dragged = useRef<number>(undefined);
  const place = (event: PointerEvent) => at(event.clientX - event.currentTarget.getBoundingClientRect().left);
  const half = (room - HEAD) / channels / 2;
  const level = (() => {
    const drawn = trace.data;
    if (!drawn?.low[0]) return undefined;
    const n = drawn.low[0].length;
    const i = Math.min(
      n - 1,
      Math.max(0, Math.floor(((cursor - drawn.start) / (drawn.stop - drawn.start)) * n)),
    );
    return Math.max(...drawn.low.map((low, c) => Math.max(-low[i]!, drawn.high[c]![i]!))) / FULL;
  })();
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      {trace.error && !trace.data ? (
        <Failed error={trace.error} retry={() => void trace.refetch()} />
      ) : (
        <div
          ref={ref}
          // A slider is what it is to whoever does not see it: a place in the take that is moved.
          role="slider"
          tabIndex={0}
          aria-label={`Place in take ${take.number}`}
          aria-valuemin={0}
          aria-valuemax={Number(seconds.toFixed(3))}
          aria-valuenow={Number(cursor.toFixed(3))}
          aria-valuetext={`${clock(cursor, span)}${level === undefined ? "" : `, ${dbfs(level)}`}`}
          onKeyDown={onKey}
          onWheel={(event) => zoom(event.deltaY < 0 ? 0.8 : 1.25, at(event.nativeEvent.offsetX))}
          onPointerDown={(event) => {
            event.currentTarget.setPointerCapture(event.pointerId);
            dragged.current = place(event);
            setChosen(undefined);
          }}
          onPointerMove={(event) => {
            if (dragged.current === undefined) return;
            const [a, b] = [dragged.current, place(event)].sort((p, q) => p - q) as [number, number];
            if (x(b) - x(a) > 4) setChosen({ start: a, stop: Math.min(b, a + 30) });
          }}
          onPointerUp={(event) => {
            const began = dragged.current;
            dragged.current = undefined;
            if (began === undefined) return;
            const here = place(event);
            if (Math.abs(x(here) - x(began)) <= 4) move(here);
            else setCursor(Math.min(began, here));
          }}
          className="relative min-h-[120px] flex-1 cursor-text touch-pan-y overflow-hidden focus-visible:-outline-offset-2"
        >
          {!trace.data && <Loading what="the waveform" />}
          <svg width={width} height={room + AXIS} aria-hidden className="absolute inset-0">
            {quiet.map((q) => (
              <rect
                key={q.start}
                x={x(q.start)}
                width={Math.max(0, x(q.stop) - x(q.start))}
                y={0}
                height={room}
                className="fill-faint"
              />
            ))}
            {quiet
              .filter((q) => x(q.stop) - x(q.start) > 66 && x(q.stop) > 66 && x(q.start) < width - 66)
              .map((q) => (
                <text key={q.start} x={Math.max(4, x(q.start) + 6)} y={12} className="fill-ink-2 text-[12px]">
                  quiet part
                </text>
              ))}
            {chosen && (
              <rect
                x={x(chosen.start)}
                width={x(chosen.stop) - x(chosen.start)}
                y={0}
                height={room}
                className="fill-shoal stroke-deep"
              />
            )}
            {Array.from({ length: channels }, (_, c) => {
              const mid = HEAD + half * (2 * c + 1);
              return (
                <g key={c}>
                  {LINES_DBFS.map((line) =>
                    [1, -1].map((sign) => (
                      <path
                        key={`${line}${sign}`}
                        d={`M0 ${mid - sign * half * amplitude(line)}H${width}`}
                        className="stroke-ok"
                        strokeDasharray="5 4"
                        opacity={0.7}
                      />
                    )),
                  )}
                  <path d={`M0 ${mid}H${width}`} className="stroke-line" />
                  {trace.data?.low[c] && (
                    <svg
                      x={x(trace.data.start)}
                      width={x(trace.data.stop) - x(trace.data.start)}
                      y={0}
                      height={room}
                      overflow="visible"
                    >
                      <path
                        d={outline(
                          trace.data.low[c],
                          trace.data.high[c]!,
                          trace.data.points,
                          x(trace.data.stop) - x(trace.data.start),
                          mid,
                          half - 1,
                        )}
                        className={trace.data.points ? "fill-none stroke-deep" : "fill-deep stroke-deep"}
                        strokeWidth={trace.data.points ? 1.4 : 0.6}
                      />
                    </svg>
                  )}
                  {channels > 1 && (
                    <text x={4} y={mid - half + 12} className="halo fill-ink-2 text-[12px]">
                      {c === 0 ? "left" : "right"}
                    </text>
                  )}
                </g>
              );
            })}
            {LINES_DBFS.map((line) => (
              <text
                key={line}
                x={width - 4}
                y={HEAD + half - half * amplitude(line) - 3}
                textAnchor="end"
                className="halo fill-ok text-[12px]"
              >
                {`−${-line} dBFS`}
              </text>
            ))}
            {spots
              .filter((s) => s.stop >= view.start && s.start <= view.stop)
              .slice(0, 60)
              .map((s, i) => (
                <g key={`${s.start}${s.label}`}>
                  <path d={`M${x(s.start)} 6V${room}`} className="stroke-caution" strokeWidth={1.6} />
                  <path d={`M${x(s.start) - 5} 0h10l-5 8z`} className="fill-caution" />
                  {i === 0 && x(s.start) < width - 130 && (
                    <text x={x(s.start) + 8} y={12} className="halo fill-caution text-[12px]">
                      {s.label}
                    </text>
                  )}
                </g>
              ))}
            {ticks(view.start, view.stop, width).map((t) => (
              <text
                key={t}
                x={Math.min(width - 18, Math.max(1, x(t)))}
                y={room + 15}
                textAnchor={x(t) < 20 ? "start" : "middle"}
                className="fill-ink-2 text-[12px]"
              >
                {clock(t, span)}
              </text>
            ))}
            {cursor >= view.start && cursor <= view.stop && (
              <path d={`M${x(cursor)} 0V${room}`} className="stroke-ink" strokeWidth={1.6} />
            )}
          </svg>
        </div>
      )}
      <div className="flex shrink-0 flex-wrap items-center gap-x-2 gap-y-1 pt-1.5 text-[13px]">
        <Button
          look="main"
          onClick={toggle}
          aria-label={play.isPlaying ? "Stop" : chosen ? "Play the part" : "Play"}
        >
          {play.isPlaying ? <Pause size={15} /> : <PlayIcon size={15} />}
        </Button>
        <span className="min-w-[190px]">
          {clock(cursor, Math.min(span, 3))}
          {level !== undefined && `, ${dbfs(level)} at the cursor`}
        </span>
        {play.failed && (
          <span role="alert" className="text-stop">
            It could not be played: the recording cannot be read.
          </span>
        )}
        <span className="ml-auto flex items-center gap-1">
          {chosen ? (
            <Button look="quiet" onClick={() => setChosen(undefined)}>
              <Repeat size={14} /> {clock(chosen.start, 1)} to {clock(chosen.stop, 1)}, let go
            </Button>
          ) : (
            <span className={hints ? "text-ink-2 max-xl:hidden" : "hidden"}>
              drag for a loop, <Key>space</Key> plays, <Key>←</Key> <Key>→</Key> move
            </span>
          )}
          <Button look="quiet" aria-label="Look closer" title="Look closer (+)" onClick={() => zoom(0.5)}>
            <Plus size={15} />
          </Button>
          <Button look="quiet" aria-label="See more" title="See more (−)" onClick={() => zoom(2)}>
            <Minus size={15} />
          </Button>
          <Button look="quiet" onClick={() => look(0, seconds)} disabled={span >= seconds}>
            Whole take
          </Button>
        </span>
      </div>
    </div>
  );
}
