import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { answer, api, type Schemas, type Take } from "../../api/client";
import { ChartFrame } from "../../parts/ChartFrame";
import { Failed, Loading } from "../../parts/states";
import { short } from "../../parts/table";
import { useSize } from "../../parts/useSize";

type Spectrogram = Schemas["Spectrogram"];

const AXIS = { left: 56, bottom: 20 };
/** What is drawn, from nothing to the strongest, dBFS. */
const SPAN = 90;
const MARKS = [63, 125, 250, 500, 1000, 2000, 4000, 8000, 16000];

const hertz = (f: number) => (f >= 1000 ? `${short(f / 1000)} kHz` : `${short(f)} Hz`);

/** A colour of the theme as red, green and blue. */
function ink(name: string): [number, number, number] {
  const value = getComputedStyle(document.documentElement).getPropertyValue(name).trim();
  return [1, 3, 5].map((i) => parseInt(value.slice(i, i + 2), 16)) as [number, number, number];
}

function draw(canvas: HTMLCanvasElement, { levels, times, frequency }: Spectrogram, top: number) {
  const [from, to] = [ink("--sheet"), ink("--deep")];
  canvas.width = times.length;
  canvas.height = frequency.length;
  const context = canvas.getContext("2d")!;
  const image = context.createImageData(canvas.width, canvas.height);
  levels.forEach((row, x) =>
    row.forEach((level, band) => {
      const part = Math.min(1, Math.max(0, (level - top + SPAN) / SPAN));
      const at = 4 * ((canvas.height - 1 - band) * canvas.width + x);
      for (let i = 0; i < 3; i += 1) image.data[at + i] = from[i]! + part * (to[i]! - from[i]!);
      image.data[at + 3] = 255;
    }),
  );
  context.putImageData(image, 0, 0);
}

/** Levels over time and frequency: darker is stronger; read out under the pointer or by the arrows. */
export function SpectrogramPicture({ take }: { take: Take }) {
  const { seconds } = take.measures!;
  const query = useQuery({
    queryKey: ["spectrogram", take.id, take.audio],
    queryFn: () =>
      answer(
        api.GET("/api/takes/{take_id}/spectrogram", { params: { path: { take_id: take.id }, query: {} } }),
      ),
    staleTime: Infinity,
  });
  const canvas = useRef<HTMLCanvasElement>(null);
  const { ref, width, height } = useSize();
  const [at, setAt] = useState({ time: 0, band: 0 });
  const found = query.data;
  const top = found ? Math.max(-60, ...found.levels.map((row) => Math.max(...row))) : 0;
  useEffect(() => {
    const paint = () => found && canvas.current && draw(canvas.current, found, top);
    paint();
    const watcher = new MutationObserver(paint);
    watcher.observe(document.documentElement, { attributes: true, attributeFilter: ["data-theme"] });
    return () => watcher.disconnect();
  }, [found, top]);
  if (query.error) return <Failed error={query.error} retry={() => void query.refetch()} />;
  if (!found) return <Loading what="the spectrogram" />;
  const room = { width: Math.max(50, width - AXIS.left), height: Math.max(50, height - AXIS.bottom) };
  const { times, frequency, levels } = found;
  const y = (f: number) => {
    const [low, high] = [frequency[0]!, frequency.at(-1)!];
    return (
      room.height *
      (1 - (Math.log(f / low) / Math.log(high / low)) * (1 - 1 / frequency.length) - 0.5 / frequency.length)
    );
  };
  const time = Math.min(times.length - 1, at.time);
  const band = Math.min(frequency.length - 1, at.band);
  const told = `${times[time]!.toFixed(2)} s, ${hertz(frequency[band]!)}: ${String(levels[time]![band]!).replace("-", "−")} dBFS`;
  const move = (by: { time?: number; band?: number }) =>
    setAt({
      time: Math.min(times.length - 1, Math.max(0, time + (by.time ?? 0))),
      band: Math.min(frequency.length - 1, Math.max(0, band + (by.band ?? 0))),
    });
  const octaves = frequency.map((_, i) => i).filter((i) => i % 6 === 0);
  return (
    <ChartFrame
      label="Spectrogram"
      title={<b>Spectrogram</b>}
      sentence={`Levels in sixths of an octave, ${times.length} windows of 85 ms over the take; darker is stronger.`}
      table={{
        head: ["Time, s", ...octaves.map((i) => `${hertz(frequency[i]!)}, dBFS`)],
        rows: times.map((t, n) => [t.toFixed(2), ...octaves.map((i) => levels[n]![i]!)]),
      }}
    >
      <div
        ref={ref}
        role="slider"
        tabIndex={0}
        aria-label={`Read the spectrogram of take ${take.number}`}
        aria-valuemin={0}
        aria-valuemax={times.length - 1}
        aria-valuenow={time}
        aria-valuetext={told}
        className="absolute inset-x-5 inset-y-0"
        onKeyDown={(event) => {
          const by = {
            ArrowLeft: { time: -1 },
            ArrowRight: { time: 1 },
            ArrowUp: { band: 1 },
            ArrowDown: { band: -1 },
          }[event.key];
          if (!by) return;
          event.preventDefault();
          move(by);
        }}
        onPointerMove={(event) => {
          const box = event.currentTarget.getBoundingClientRect();
          setAt({
            time: Math.max(
              0,
              Math.floor(((event.clientX - box.left - AXIS.left) / room.width) * times.length),
            ),
            band: Math.max(0, Math.floor((1 - (event.clientY - box.top) / room.height) * frequency.length)),
          });
        }}
      >
        <canvas
          ref={canvas}
          aria-hidden
          className="absolute"
          style={{
            left: AXIS.left,
            top: 0,
            width: room.width,
            height: room.height,
            imageRendering: "pixelated",
          }}
        />
        <svg aria-hidden width={width} height={height} className="absolute inset-0">
          {MARKS.filter((f) => f >= frequency[0]! && f <= frequency.at(-1)!).map((f) => (
            <text
              key={f}
              x={AXIS.left - 6}
              y={Math.max(10, y(f) + 4)}
              textAnchor="end"
              className="fill-ink-2 text-[12px]"
            >
              {hertz(f)}
            </text>
          ))}
          {[0, 0.25, 0.5, 0.75, 1].map((part) => (
            <text
              key={part}
              x={AXIS.left + part * room.width}
              y={height - 5}
              textAnchor={part === 0 ? "start" : part === 1 ? "end" : "middle"}
              className="fill-ink-2 text-[12px]"
            >
              {(part * seconds).toFixed(seconds > 60 ? 0 : 1)} s
            </text>
          ))}
          <path
            d={`M${AXIS.left + ((time + 0.5) / times.length) * room.width} 0V${room.height}M${AXIS.left} ${room.height * (1 - (band + 0.5) / frequency.length)}H${width}`}
            className="stroke-ink"
            opacity={0.5}
          />
        </svg>
        <p className="absolute top-1 right-1 rounded bg-sheet px-2 py-0.5 text-[12.5px]">{told}</p>
      </div>
    </ChartFrame>
  );
}
