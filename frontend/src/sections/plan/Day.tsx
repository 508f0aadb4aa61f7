import { Link } from "react-router";
import { Block, BLOCK_HEIGHT, BLOCK_TOP } from "./Block";
import { clockAt } from "./clock";
import { blockKey, type BlockState, type DayState } from "./usePlan";

const HEIGHT = 116;
export const NAMES = 96;

/** The water's edge along the top of what is open. */
function Waves({ width }: { width: number }) {
  const step = 18;
  const count = Math.max(1, Math.ceil(width / step));
  const path = `q${step / 2} -6 ${step} 0`.repeat(count);
  return (
    <svg aria-hidden width={width} height={8} className="absolute -top-[5px] left-0 overflow-hidden">
      <path d={`M0 6${path}`} fill="none" strokeWidth={1.5} className="stroke-deep" />
    </svg>
  );
}

/** How the allowance of whoever records fills up over the day. */
function Ears({ day, px, from }: { day: DayState; px: number; from: number }) {
  const used = day.ears.at(-1)?.part ?? 0;
  if (used < 0.005) return null;
  const high = (part: number) => HEIGHT - 4 - (HEIGHT - 16) * Math.min(1, part);
  const ends = day.windows.at(-1)?.stop ?? day.last;
  const points = day.ears
    .map((at) => `${(Math.min(ends, Math.max(from, at.slot)) - from) * px},${high(at.part)}`)
    .join(" ");
  const [line, text] =
    used > 1
      ? ["stroke-stop", "text-stop"]
      : used >= 0.8
        ? ["stroke-caution", "text-caution"]
        : ["stroke-deep", "text-deep"];
  return (
    <>
      <svg
        role="img"
        aria-label={`Ears: ${Math.round(used * 100)} % of the allowance at the end of the day`}
        width={(ends - from) * px}
        height={HEIGHT}
        className="pointer-events-none absolute top-0 left-0 overflow-hidden"
      >
        <polyline points={points} fill="none" strokeWidth={2} className={line} />
      </svg>
      <span
        style={{ top: Math.max(-2, high(used) - 18), left: (ends - from) * px }}
        className={`pointer-events-none absolute -translate-x-full px-1 text-[11.5px] font-semibold whitespace-nowrap ${text}`}
      >
        ears {Math.round(used * 100)} %
      </span>
    </>
  );
}

/** A day as a tide table: water while it may be loud, sand while it may not, nothing while nobody is there. */
export function Day({
  day,
  from,
  to,
  px,
  every,
  chosen,
  dragged,
  ghost,
  ghosts,
  onChoose,
  onGrab,
}: {
  day: DayState;
  /** The slots that all days are drawn from and to. */
  from: number;
  to: number;
  px: number;
  /** Hours between two marks. */
  every: number;
  chosen?: string;
  dragged?: string;
  /** Where what is dragged would lie. */
  ghost?: { start: number; slots: number };
  /** Where blocks lay before. */
  ghosts: BlockState[];
  onChoose: (block: BlockState) => void;
  onGrab: (block: BlockState, event: React.PointerEvent) => void;
}) {
  const width = (to - from) * px;
  const [first, ...others] = [...new Set(day.blocks.map((block) => block.hookup).filter(Boolean))];
  const within = (start: number, stop: number) => ({
    left: (Math.max(from, start) - from) * px,
    width: Math.max(0, (Math.min(to, stop) - Math.max(from, start)) * px),
  });
  const windowed = (span: { start: number; stop: number }) =>
    day.windows
      .map((w) => ({ start: Math.max(w.start, span.start), stop: Math.min(w.stop, span.stop) }))
      .filter((w) => w.stop > w.start);
  return (
    <section aria-label={day.name} className="flex">
      <div className="shrink-0 pt-2 pr-2 leading-tight" style={{ width: NAMES }}>
        <h2 className="text-[15px] font-bold">{day.name}</h2>
        {day.note && <p className="text-[12px] text-ink-2">{day.note}</p>}
        {first && (
          <Link
            to={`/run/${first}/kit${others.length ? `?with=${others.join(",")}` : ""}`}
            className="inline-block min-h-6 text-[12px] text-deep underline"
          >
            kit list
          </Link>
        )}
      </div>
      <div className="min-w-0 flex-1">
        <div data-day={day.date} className="relative border-b border-line" style={{ height: HEIGHT, width }}>
          {day.windows.map((w) => (
            <span
              key={w.start}
              aria-hidden
              style={within(w.start, w.stop)}
              className="absolute inset-y-0 bg-shoal"
            >
              <Waves width={within(w.start, w.stop).width} />
            </span>
          ))}
          {day.quiet.flatMap((span) =>
            windowed(span).map((w) => (
              <span
                key={w.start}
                title={`${clockAt(day, w.start)} to ${clockAt(day, w.stop)}: silent work only. ${span.words}`}
                style={within(w.start, w.stop)}
                className="absolute -top-[6px] bottom-0 bg-sand"
              />
            )),
          )}
          {day.hours
            .filter((hour) => hour.start > from && hour.start < to)
            .map((hour) => (
              <span
                key={hour.start}
                aria-hidden
                style={{ left: (hour.start - from) * px }}
                className="absolute inset-y-0 border-l border-line/40"
              />
            ))}
          {day.windows.length === 0 && (
            <span className="absolute inset-0 flex items-center justify-center text-[13px] text-ink-2">
              nobody is there
            </span>
          )}
          {ghosts.map((block) => (
            <span
              key={blockKey(block)}
              title={`Before: ${block.song}, ${block.name}, ${block.at}`}
              style={{ ...within(block.start, block.start + block.slots), top: 6, height: 14 }}
              className="absolute overflow-hidden rounded-sm border border-dashed border-ink-2 bg-paper/60 px-0.5 text-[10.5px] leading-[12px] text-ellipsis whitespace-nowrap text-ink-2"
            >
              {block.song} {block.name}
            </span>
          ))}
          <Ears day={day} px={px} from={from} />
          {day.blocks.map((block) => (
            <Block
              key={blockKey(block)}
              day={day}
              block={block}
              px={px}
              from={from}
              chosen={chosen === blockKey(block)}
              moved={dragged === blockKey(block)}
              onChoose={() => onChoose(block)}
              onPointerDown={(event) => onGrab(block, event)}
            />
          ))}
          {ghost && (
            <span
              style={{
                ...within(ghost.start, ghost.start + ghost.slots),
                top: BLOCK_TOP,
                height: BLOCK_HEIGHT,
              }}
              className="pointer-events-none absolute z-20 rounded-md border-2 border-dashed border-deep bg-sheet/70 px-1 text-[12px] font-semibold"
            >
              {clockAt(day, ghost.start)}
            </span>
          )}
          {day.now !== null && day.now >= from && day.now <= to && (
            <span
              title="now"
              style={{ left: (day.now - from) * px }}
              className="pointer-events-none absolute inset-y-0 z-10 border-l-2 border-stop"
            />
          )}
        </div>
        <div className="relative" style={{ width, height: day.people.length ? 34 : 20 }}>
          {day.people.map((span) => (
            <span
              key={`${span.words} ${span.start}`}
              style={within(span.start, span.stop)}
              className="absolute top-0 border-t-[3px] border-land pl-0.5 text-[11.5px] leading-tight whitespace-nowrap text-land"
            >
              {span.words}
            </span>
          ))}
          {day.hours
            .filter((hour) => hour.start >= from && hour.start <= to && Number(hour.words) % every === 0)
            .map((hour) => (
              <span
                key={hour.start}
                style={{ left: (hour.start - from) * px }}
                className={`absolute bottom-0 text-[11.5px] text-ink-2 ${hour.start === from ? "" : hour.start === to ? "-translate-x-full" : "-translate-x-1/2"}`}
              >
                {hour.words}
              </span>
            ))}
        </div>
      </div>
    </section>
  );
}
