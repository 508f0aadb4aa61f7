import { X } from "lucide-react";
import { memo, useState } from "react";
import type { Change, End, Schemas, UnitView } from "../../api/client";
import { Jack } from "./Jack";
import { Knob, type ControlView } from "./Knob";
import { Sees, Settings, Takes } from "./readings";
import { visible } from "./visible";

export interface CardProps {
  unit: UnitView;
  share?: Schemas["Share"];
  sees?: Schemas["AmpResult"];
  /** Of the worst finding about the unit; `match` and `power` of those about what it sees and takes. */
  severity: string;
  match: string;
  power: string;
  lit: boolean;
  /** In px. */
  width: number;
  /** What matters alone: sockets in use, what they carry, what is set otherwise than usual. */
  brief: boolean;
  /** The socket that is gone into. */
  selected?: string;
  locked: boolean;
  /** Nothing on it can be moved, and all that it says is said. */
  still: boolean;
  purpose?: string;
  /** The unit is worked on: its card wants to be open. */
  onOpen: (unit: string) => void;
  /** Left out where sockets are only looked at. */
  onSelect?: (end: End) => void;
  onChange: (changes: Change[]) => void;
}

const BORDER: Record<string, string> = { stop: "border-stop", caution: "border-caution" };

/** Whether a control is said where all are: of an interface by itself only what stands otherwise than usual. */
const counts = (unit: UnitView, { control, value }: ControlView) =>
  unit.kind !== "interface" || control.id.includes(".") || value !== control.default;

/** A unit with its sockets and controls. Drawn anew only when something about this one has changed. */
export const UnitCard = memo(function UnitCard({
  unit,
  share,
  sees,
  severity,
  match,
  power,
  lit,
  width,
  brief,
  selected,
  locked,
  still,
  purpose,
  onOpen,
  onSelect,
  onChange,
}: CardProps) {
  const [all, setAll] = useState(false);
  const [unfolded, setUnfolded] = useState(false);
  const { sockets: shown, controls, folded } = visible(unit, all);
  const sockets = brief ? shown.filter((s) => s.lead) : shown;
  const inputs = sockets.filter((s) => s.socket.flow === "in");
  const outputs = sockets.filter((s) => s.socket.flow === "out");
  const jack = { unit: unit.id, selected, purpose, onSelect };
  const lineUnused = !shown.some((s) => s.socket.id === "line" && s.lead);
  const used = controls.filter(
    (c) => !(lineUnused && c.control.id.startsWith("line.")) && (!still || counts(unit, c)),
  );
  // What is folded but not as usual shows: a load that stands covered, a master turned down.
  const isFolded = (c: ControlView) => !still && c.control.folded && c.value === c.control.default;
  const folds = used.filter((c) => c.control.folded);
  const knobs = used.filter((c) => unfolded || !isFolded(c));
  return (
    // eslint-disable-next-line jsx-a11y/no-noninteractive-element-interactions, jsx-a11y/click-events-have-key-events -- opens what is worked on; by keys the focus does
    <article
      aria-label={unit.name}
      data-unit={unit.id}
      data-size={brief ? "brief" : "open"}
      style={{ width }}
      // After the press, not at it: a card that grows under the finger would swallow it.
      onClick={() => onOpen(unit.id)}
      onFocus={(event) => event.target.matches(":focus-visible") && onOpen(unit.id)}
      className={`relative shrink-0 rounded-lg border-[1.6px] bg-sheet ${brief ? "cursor-pointer hover:bg-shoal/50" : ""} ${BORDER[severity] ?? "border-ink"} ${lit ? "ring-4 ring-water/70" : ""}`}
    >
      <header
        className={`flex items-baseline gap-2 border-b border-line py-1 pr-1.5 ${brief ? "pl-2" : "pl-3"}`}
      >
        <h3
          title={unit.name}
          className={`font-bold ${brief ? "line-clamp-2 text-[13px] leading-tight" : "truncate text-[14px]"}`}
        >
          {unit.name}
        </h3>
        {!locked && !still && !brief && (
          <button
            type="button"
            aria-label={`Take ${unit.name} out of the hook-up`}
            onClick={() => onChange([{ op: "remove", unit: unit.id }])}
            className="no-print -my-1 ml-auto flex size-[24px] shrink-0 items-center justify-center self-center rounded text-ink-2 hover:bg-faint hover:text-stop"
          >
            <X size={13} />
          </button>
        )}
      </header>
      {!brief && (
        <div className="flex min-h-[26px] items-center gap-2 px-3 text-[12px] text-ink-2">
          <p className="truncate" title={unit.summary}>
            {unit.summary}
            {unit.pinned && ", as it was then"}
          </p>
          {folds.length > 0 && (unfolded || folds.some(isFolded)) && (
            <button
              type="button"
              aria-expanded={unfolded}
              aria-label={`${unfolded ? "Less" : "More"} of ${unit.name}`}
              onClick={() => setUnfolded(!unfolded)}
              className="no-print ml-auto min-h-[24px] shrink-0 text-deep underline"
            >
              {unfolded ? "less" : "more"}
            </button>
          )}
        </div>
      )}
      <div className={`flex justify-between ${brief ? "flex-wrap gap-x-1.5" : "gap-1"}`}>
        <div className="flex max-w-full min-w-0 flex-col items-start">
          {inputs.map((view) => (
            <Jack key={view.socket.id} side="in" view={view} {...jack} />
          ))}
          {!brief && (folded > 0 || all) && (
            <button
              type="button"
              onClick={() => setAll(!all)}
              className="h-[24px] pl-4 text-[12px] text-deep underline"
            >
              {all ? "fewer sockets" : `${folded} more sockets`}
            </button>
          )}
        </div>
        <div className={`ml-auto flex max-w-full flex-col items-end ${brief ? "" : "min-w-0"}`}>
          {outputs.map((view) => (
            <Jack key={view.socket.id} side="out" view={view} {...jack} />
          ))}
        </div>
      </div>
      <div className={`flex flex-col pb-2 ${brief ? "gap-0.5 px-2" : "gap-2 px-3 pt-0.5"}`}>
        {brief ? (
          <Settings controls={used} all={still} />
        ) : (
          knobs.map((view) => (
            <Knob
              key={view.control.id}
              unit={unit}
              view={view}
              locked={locked}
              still={still}
              onChange={onChange}
            />
          ))
        )}
        {sees && <Sees sees={sees} match={match} brief={brief} />}
        {share && <Takes share={share} power={power} brief={brief} />}
      </div>
    </article>
  );
});
