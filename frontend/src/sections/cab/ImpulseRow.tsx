import { Bookmark, ChevronDown, ChevronRight, Star } from "lucide-react";
import { signed, fixed } from "../../parts/table";
import type { Impulse } from "./useLibrary";

const ORIGINS: Record<Impulse["origin"], string> = {
  file: "",
  made: "made by the program",
  sweep: "own sweep",
  simulated: "sweep, simulated",
  response: "from a response, minimum phase",
};

/** An impulse response in the list: marked for several, starred, trusted, or chosen. */
export function ImpulseRow({
  entry,
  chosen,
  marked,
  unfolded,
  onMark,
  onChoose,
  onUnfold,
  onNote,
}: {
  entry: Impulse;
  chosen: boolean;
  marked: boolean;
  unfolded: boolean;
  onMark: () => void;
  onChoose: () => void;
  onUnfold: () => void;
  onNote: (next: Partial<Impulse["note"]>) => void;
}) {
  const { note, bands } = entry;
  return (
    <div
      className={`flex items-center gap-1.5 border-b border-line py-0.5 pr-3 text-[13px] ${chosen ? "bg-shoal" : ""} ${entry.under === null ? "pl-2" : "pl-8"}`}
    >
      <input
        type="checkbox"
        aria-label={`Mark ${note.name}`}
        className="size-[15px] shrink-0 accent-[var(--deep)]"
        checked={marked}
        onChange={onMark}
      />
      {entry.folds > 0 ? (
        <button
          type="button"
          aria-label={`${entry.folds} alike under ${note.name}`}
          aria-expanded={unfolded}
          className="flex size-[24px] items-center justify-center rounded text-ink-2 hover:bg-faint"
          onClick={onUnfold}
        >
          {unfolded ? <ChevronDown size={15} /> : <ChevronRight size={15} />}
        </button>
      ) : (
        <span className="w-[24px]" />
      )}
      {(
        [
          ["favourite", "Favourite", Star],
          ["listed", "Short list", Bookmark],
        ] as const
      ).map(([field, label, Icon]) => (
        <button
          key={field}
          type="button"
          aria-label={`${label}: ${note.name}`}
          title={label}
          aria-pressed={note[field]}
          className="flex size-[24px] items-center justify-center rounded text-ink-2 hover:bg-faint"
          onClick={() => onNote({ [field]: !note[field] })}
        >
          <Icon size={15} className={note[field] ? "fill-deep text-deep" : ""} />
        </button>
      ))}
      <button
        type="button"
        aria-current={chosen}
        className="grid min-w-0 flex-1 grid-cols-[minmax(0,1fr)_auto] items-center gap-x-3 py-1 text-left xl:grid-cols-[minmax(0,1.4fr)_minmax(0,1fr)_230px_52px]"
        onClick={onChoose}
      >
        <span className="min-w-0">
          <span className="block truncate font-semibold">{note.name}</span>
          <span className="block truncate text-[12px] text-ink-2">
            {[
              ORIGINS[entry.origin],
              entry.inverted ? "points down" : "",
              entry.folds ? `${entry.folds} alike folded` : "",
              entry.in_blends ? `in ${entry.in_blends} blend${entry.in_blends > 1 ? "s" : ""}` : "",
              ...note.tags,
            ]
              .filter(Boolean)
              .join(" · ")}
          </span>
        </span>
        <span className="truncate text-[12.5px] max-xl:hidden">
          {[note.microphone, note.distance === null ? "" : `${note.distance} cm`, note.axis]
            .filter(Boolean)
            .join(", ") || "–"}
        </span>
        <span className="grid grid-cols-4 text-right text-[12.5px] tabular-nums max-xl:hidden">
          {([bands.low, bands.low_mid, bands.presence, bands.top] as const).map((db, i) => (
            <span key={i}>{signed(db)}</span>
          ))}
        </span>
        <span className="text-right text-[12.5px] tabular-nums">
          {entry.length === null ? "–" : `${fixed(entry.length, 0)} ms`}
        </span>
      </button>
    </div>
  );
}
