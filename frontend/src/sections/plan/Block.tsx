import { Pin } from "lucide-react";
import { Mark } from "../../parts/Mark";
import { clockAt, lengthWords } from "./clock";
import { blockKey, SLOT_MIN, type BlockState, type DayState } from "./usePlan";

export const BLOCK_TOP = 22;
export const BLOCK_HEIGHT = 84;
const NARROW = 52;
/** From here on there is room for two lines that run down. */
const TWO_DOWN = 28;

const shownName = (block: BlockState) => (block.choosing ? `choose, ${block.name}` : block.name);

/** What there is to be said of a block in one line. */
export function blockWords(day: DayState, block: BlockState): string {
  const sound = block.loud ? "loud" : "silent";
  const marks = [
    block.done && "done",
    block.pinned && "pinned",
    block.wrong.length > 0 && "does not hold",
    block.notes.some((note) => note.check) && "check first",
  ].filter(Boolean);
  return [
    `${block.song} ${shownName(block)}`,
    day.name,
    block.at,
    lengthWords(block.minutes),
    sound,
    ...marks,
  ].join(", ");
}

/** What is done in a block: finding is dashed, a rest is left open. */
function Stretches({ block, px }: { block: BlockState; px: number }) {
  let at = 0;
  return block.stretches.map(({ doing, slots }, i) => {
    const left = at * px;
    at += slots;
    if (doing === "play" || doing === "choose") return null;
    return (
      <span
        key={i}
        aria-hidden
        style={{ left, width: slots * px }}
        className={`absolute inset-y-0 ${doing === "find" ? "border-r-[1.5px] border-dashed border-ink-2 bg-faint/70" : "bg-[repeating-linear-gradient(135deg,var(--line)_0_2px,transparent_2px_7px)]"}`}
      />
    );
  });
}

/** A block where it lies on its day. */
export function Block({
  day,
  block,
  px,
  from,
  chosen,
  moved,
  onChoose,
  onPointerDown,
}: {
  day: DayState;
  block: BlockState;
  px: number;
  /** The slot the day is drawn from. */
  from: number;
  chosen: boolean;
  /** Where it is being dragged to. */
  moved: boolean;
  onChoose: () => void;
  onPointerDown: (event: React.PointerEvent) => void;
}) {
  const width = block.slots * px;
  const narrow = width < NARROW;
  const name = shownName(block);
  const check = block.verdict?.severity === "caution" || block.notes.some((note) => note.check);
  const stopped = block.wrong.length > 0 || block.verdict?.severity === "stop";
  return (
    <>
      {block.change > 0 && (
        <span
          aria-hidden
          title={`${clockAt(day, block.start - block.change)}: ${block.change * SLOT_MIN} min, ${block.plugs} plugs moved`}
          style={{ left: (block.start - block.change - from) * px, width: block.change * px }}
          className="absolute flex items-center justify-center"
        >
          <span className="absolute top-[13px] w-full border-t-[2px] border-dotted border-ink-2" />
          {block.plugs > 0 && (
            <span
              style={{ top: 8 }}
              className="absolute size-[11px] rounded-full border-[1.5px] border-ink-2 bg-paper"
            />
          )}
        </span>
      )}
      <button
        type="button"
        data-block={blockKey(block)}
        aria-label={blockWords(day, block)}
        aria-pressed={chosen}
        title={blockWords(day, block)}
        onClick={onChoose}
        onPointerDown={onPointerDown}
        style={{ left: (block.start - from) * px, width, top: BLOCK_TOP, height: BLOCK_HEIGHT }}
        className={`absolute touch-none overflow-hidden rounded-md border-[1.5px] text-left select-none ${
          block.done ? "border-line bg-faint text-ink-2" : "border-ink bg-sheet text-ink"
        } ${chosen ? "z-10 outline-[3px] outline-offset-0 outline-deep" : ""} ${moved ? "opacity-40" : ""} ${
          stopped ? "!border-stop" : ""
        } ${block.choosing ? "border-dotted" : ""}`}
      >
        <Stretches block={block} px={px} />
        {block.loud && (
          <span aria-hidden className="absolute inset-x-0 top-[3px] h-[5px] border-y-[1.5px] border-ink" />
        )}
        <span
          className={`absolute ${
            narrow
              ? `inset-x-0 top-[11px] bottom-[2px] mx-auto text-[11px] [writing-mode:vertical-rl] ${width < TWO_DOWN ? "w-[14px] leading-[14px]" : "w-[26px] leading-[13px]"}`
              : "inset-x-1.5 top-[13px] text-[12.5px] leading-[16px]"
          } overflow-hidden text-ellipsis whitespace-nowrap`}
        >
          {narrow ? (
            <>
              <b className={width < TWO_DOWN ? "" : "block"}>{block.song}</b> {name}
            </>
          ) : (
            <>
              <b className="block overflow-hidden text-ellipsis">{block.song}</b>{" "}
              <span className="block overflow-hidden text-ellipsis">{name}</span>
            </>
          )}
        </span>
        <span className="absolute right-0.5 bottom-0.5 flex items-center gap-0.5">
          {block.pinned && <Pin size={12} aria-hidden />}
          {!narrow && stopped && <Mark severity="stop" size={13} />}
          {!narrow && !stopped && check && <Mark severity="caution" size={13} />}
        </span>
      </button>
    </>
  );
}
