import type { End, Schemas } from "../../api/client";

export type SocketView = Schemas["SocketView"];

interface Props {
  unit: string;
  view: SocketView;
  side: "in" | "out";
  /** The socket of this unit that is gone into. */
  selected?: string;
  /** What a press does, in words, where it is not the usual. */
  purpose?: string;
  /** Left out where it is only looked at. */
  onSelect?: (end: End) => void;
}

/** A socket at the edge of its card: a press shows what may go into it. */
export function Jack({ unit, view, side, selected, purpose = "see what may go here", onSelect }: Props) {
  const { socket, lead } = view;
  const active = selected === socket.id;
  const ring = socket.level === "speaker" ? "border-ink" : "border-deep";
  const look = `group relative flex h-[24px] max-w-full items-center text-[12px] text-ink-2 ${side === "in" ? "pl-4" : "flex-row-reverse pr-4"}`;
  const inside = (
    <>
      <span
        data-ring={`${unit}/${socket.id}`}
        className={`absolute top-[5px] size-[15px] rounded-full border-2 ${ring} ${active ? "bg-water" : lead ? "bg-sheet" : "bg-paper"} ${side === "in" ? "-left-[8px]" : "-right-[8px]"} ${onSelect ? "group-hover:bg-shoal" : ""}`}
      />
      <span className="truncate">{socket.label}</span>
    </>
  );
  if (!onSelect) return <p className={look}>{inside}</p>;
  return (
    <button
      type="button"
      data-socket={`${unit}/${socket.id}`}
      aria-label={`${socket.label}, ${lead ? "a lead is in it" : "empty"}; ${purpose}`}
      aria-pressed={active}
      onClick={() => onSelect({ unit, socket: socket.id })}
      className={`${look} hover:text-ink`}
    >
      {inside}
    </button>
  );
}
