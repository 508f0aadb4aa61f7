import { X } from "lucide-react";
import { memo, useState } from "react";
import { INK } from "../../parts/Mark";
import { short } from "../../parts/table";
import type { Change, End, Schemas, UnitView } from "../../api/client";
import { Knob, type ControlView } from "./Knob";

type Share = Schemas["Share"];
type SocketView = Schemas["SocketView"];

export interface CardProps {
  unit: UnitView;
  share?: Share;
  sees?: Schemas["AmpResult"];
  /** Of the worst finding about the unit; `match` and `power` of those about what it sees and takes. */
  severity: string;
  match: string;
  power: string;
  lit: boolean;
  /** The socket that is gone into. */
  selected?: string;
  locked: boolean;
  onSelect: (end: End) => void;
  onChange: (changes: Change[]) => void;
}

const BORDER: Record<string, string> = { stop: "border-stop", caution: "border-caution" };
const BAR: Record<string, string> = { stop: "bg-stop", caution: "bg-caution" };

function Jack({
  unit,
  view,
  side,
  selected,
  onSelect,
}: { unit: string; view: SocketView; side: "in" | "out" } & Pick<CardProps, "selected" | "onSelect">) {
  const { socket, lead } = view;
  const active = selected === socket.id;
  const ring = socket.level === "speaker" ? "border-ink" : "border-deep";
  return (
    <button
      type="button"
      data-socket={`${unit}/${socket.id}`}
      aria-label={`${socket.label}, ${lead ? "a lead is in it" : "empty"}; see what may go here`}
      aria-pressed={active}
      onClick={() => onSelect({ unit, socket: socket.id })}
      className={`group relative flex h-[22px] items-center text-[12px] text-ink-2 hover:text-ink ${side === "in" ? "pl-4" : "flex-row-reverse pr-4"}`}
    >
      <span
        data-ring={`${unit}/${socket.id}`}
        className={`absolute top-[4px] size-[15px] rounded-full border-2 ${ring} ${active ? "bg-water" : lead ? "bg-sheet" : "bg-paper"} ${side === "in" ? "-left-[8px]" : "-right-[8px]"} group-hover:bg-shoal`}
      />
      {socket.label}
    </button>
  );
}

/** Sockets and knobs of an interface's inputs nobody uses stay folded, so that its card stays short. */
function visible(
  unit: UnitView,
  all: boolean,
): { sockets: SocketView[]; controls: ControlView[]; folded: number } {
  if (unit.kind !== "interface") return { sockets: unit.sockets, controls: unit.controls, folded: 0 };
  const used = new Set(unit.sockets.filter((s) => s.lead).map((s) => s.socket.id));
  const keep = (id: string) => used.has(id.split(".")[0]!);
  const shown = unit.sockets.filter((s) => all || used.size === 0 || keep(s.socket.id));
  return {
    sockets: shown,
    controls: unit.controls.filter((c) => keep(c.control.id)),
    folded: unit.sockets.length - shown.length,
  };
}

/** A unit with its sockets and controls. Drawn anew only when something about this one has changed. */
export const UnitCard = memo(function UnitCard({
  unit,
  share,
  sees,
  severity,
  match,
  power,
  lit,
  selected,
  locked,
  onSelect,
  onChange,
}: CardProps) {
  const [all, setAll] = useState(false);
  const [unfolded, setUnfolded] = useState(false);
  const { sockets, controls, folded } = visible(unit, all);
  const inputs = sockets.filter((s) => s.socket.flow === "in");
  const outputs = sockets.filter((s) => s.socket.flow === "out");
  const jack = { unit: unit.id, selected, onSelect };
  const lineUnused = !sockets.some((s) => s.socket.id === "line" && s.lead);
  const used = controls.filter((c) => !(lineUnused && c.control.id.startsWith("line.")));
  // What is folded but not as usual shows: a load that stands covered, a master turned down.
  const isFolded = (c: ControlView) => c.control.folded && c.value === c.control.default;
  const folds = used.filter((c) => c.control.folded);
  const knobs = used.filter((c) => unfolded || !isFolded(c));
  return (
    <article
      aria-label={unit.name}
      data-unit={unit.id}
      className={`relative w-[186px] xl:w-[218px] rounded-lg border-[1.6px] bg-sheet ${BORDER[severity] ?? "border-ink"} ${lit ? "ring-4 ring-water/70" : ""}`}
    >
      <header className="flex items-baseline gap-2 border-b border-line py-1 pr-1.5 pl-3">
        <h3 className="truncate text-[14px] font-bold">{unit.name}</h3>
        {!locked && (
          <button
            type="button"
            aria-label={`Take ${unit.name} out of the hook-up`}
            onClick={() => onChange([{ op: "remove", unit: unit.id }])}
            className="no-print ml-auto self-center rounded p-0.5 text-ink-2 hover:bg-faint hover:text-stop"
          >
            <X size={13} />
          </button>
        )}
      </header>
      <div className="flex gap-2 px-3 pt-1 text-[12px] text-ink-2">
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
            className="no-print ml-auto shrink-0 text-deep underline"
          >
            {unfolded ? "less" : "more"}
          </button>
        )}
      </div>
      <div className="flex justify-between">
        <div className="flex flex-col items-start">
          {inputs.map((view) => (
            <Jack key={view.socket.id} side="in" view={view} {...jack} />
          ))}
          {(folded > 0 || all) && (
            <button
              type="button"
              onClick={() => setAll(!all)}
              className="h-[20px] pl-4 text-[12px] text-deep underline"
            >
              {all ? "fewer sockets" : `${folded} more sockets`}
            </button>
          )}
        </div>
        <div className="flex flex-col items-end">
          {outputs.map((view) => (
            <Jack key={view.socket.id} side="out" view={view} {...jack} />
          ))}
        </div>
      </div>
      <div className="flex flex-col gap-1.5 px-3 pt-0.5 pb-2">
        {knobs.map((view) => (
          <Knob key={view.control.id} unit={unit} view={view} locked={locked} onChange={onChange} />
        ))}
        {sees && (
          <p className="text-[12px] text-ink-2">
            sees{" "}
            <b className={`text-[16px] font-bold ${INK[match]}`}>
              {sees.sees === null ? "no load" : `${short(sees.sees)} Ω`}
            </b>{" "}
            · about {short(sees.flat_power)} W flat out
          </p>
        )}
        {share && (
          <div className="text-[12px] text-ink-2" title={share.at}>
            {share.at
              ? `now ${short(share.now)} W, at most ${short(share.flat)}`
              : `takes ${short(share.flat)} W`}{" "}
            of {share.rating ? `${short(share.rating)} W` : "an unknown rating"}
            <div className="mt-0.5 h-[8px] overflow-hidden rounded-full bg-faint" aria-hidden>
              <div
                className={`h-full rounded-full ${BAR[power] ?? "bg-deep"}`}
                style={{ width: `${Math.min(100, share.rating ? (100 * share.flat) / share.rating : 100)}%` }}
              />
            </div>
          </div>
        )}
      </div>
    </article>
  );
});
