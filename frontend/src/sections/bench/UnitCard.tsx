import { Minus, Plus, X } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { INK } from "../../parts/Mark";
import type { Change, End, Schemas, UnitView } from "../../api/client";
import { Outcome } from "./Outcome";

type Share = Schemas["Share"];
type ControlView = Schemas["ControlView"];
type Value = Schemas["SetControl"]["value"];
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
  selected?: End;
  locked: boolean;
  onSelect: (end: End) => void;
  onChange: (changes: Change[]) => void;
}

const BORDER: Record<string, string> = { stop: "border-stop", caution: "border-caution" };
const BAR: Record<string, string> = { stop: "bg-stop", caution: "bg-caution" };
const decimal = (value: number) => String(value).replace("-", "−");
const short = (value: number) => String(Number(value.toPrecision(3)));

function Jack({
  unit,
  view,
  side,
  selected,
  onSelect,
}: { unit: string; view: SocketView; side: "in" | "out" } & Pick<CardProps, "selected" | "onSelect">) {
  const { socket, lead } = view;
  const active = selected?.unit === unit && selected.socket === socket.id;
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

function stepped({ control }: ControlView, value: Value, by: number): Value | undefined {
  if (control.kind === "choice") {
    const at = control.options.findIndex((o) => o.value === value);
    return control.options[at + by]?.value;
  }
  if (control.kind === "switch") return by > 0;
  const next = Math.min(control.high, Math.max(control.low, Number(value) + by * control.step));
  return next === value ? undefined : next;
}

/** One switch, knob or selector; [ and ] move it while it has the focus. */
function Knob({
  unit,
  view,
  locked,
  onChange,
}: { unit: UnitView; view: ControlView } & Pick<CardProps, "locked" | "onChange">) {
  const { control, value } = view;
  // Where it will stand once the page has caught up: quick key presses count from there.
  const latest = useRef<Value>(value);
  useEffect(() => {
    latest.current = value;
  }, [value]);
  const set = (next: Value | undefined) => {
    if (next === undefined || next === latest.current) return;
    latest.current = next;
    onChange([{ op: "set", unit: unit.id, control: control.id, value: next }]);
  };
  const step = (by: number) => set(stepped(view, latest.current, by));
  const held = locked && !control.safe_live;
  // A position that is looked at, by mouse or by focus, says beforehand what it would lead to.
  const [looked, setLooked] = useState<Value>();
  const look = (at: Value | undefined) => ({
    onMouseEnter: () => setLooked(at),
    onMouseLeave: () => setLooked(undefined),
    onFocus: () => setLooked(at),
    onBlur: () => setLooked(undefined),
  });
  const outcome = looked !== undefined && looked !== value && !held && (
    <Outcome
      className="pointer-events-none absolute top-full left-0 z-20 w-max max-w-[280px] rounded border border-line bg-sheet px-2 py-1 shadow-md"
      changes={[{ op: "set", unit: unit.id, control: control.id, value: looked }]}
    />
  );
  const name = `${unit.name}, ${control.label}`;
  const onKeyDown = (event: React.KeyboardEvent) => {
    if (event.key === "[" || event.key === "]") {
      event.preventDefault();
      if (!held) step(event.key === "]" ? 1 : -1);
    }
  };
  const hint = held ? "stays as it is while the amp is on" : undefined;
  if (control.kind === "switch") {
    return (
      <span className="relative">
        <button
          type="button"
          role="switch"
          {...look(!value)}
          aria-checked={Boolean(value)}
          aria-label={name}
          disabled={held}
          title={hint}
          onKeyDown={onKeyDown}
          onClick={() => set(!value)}
          className="flex items-center gap-1.5 text-[12px] text-ink-2 hover:text-ink disabled:opacity-60"
        >
          <span
            className={`flex h-[15px] w-[26px] rounded-full border-[1.5px] border-ink p-[1.5px] ${value ? "justify-end bg-ink" : "bg-sheet"}`}
          >
            <span className={`size-[9px] rounded-full ${value ? "bg-paper" : "bg-ink"}`} />
          </span>
          {control.label} <b className="font-semibold text-ink">{value ? "on" : "off"}</b>
        </button>
        {outcome}
      </span>
    );
  }
  if (control.kind === "choice") {
    return (
      <div
        role="radiogroup"
        aria-label={name}
        className="relative flex flex-wrap items-center gap-1 text-[12px] text-ink-2"
      >
        {outcome}
        <span className="mr-0.5">{control.label}</span>
        {control.options.map((option) => (
          <button
            key={option.value}
            type="button"
            role="radio"
            aria-checked={option.value === value}
            {...look(option.value)}
            disabled={held}
            title={hint}
            onKeyDown={onKeyDown}
            onClick={() => set(option.value)}
            className={`min-w-[26px] rounded-[5px] border px-1.5 py-px text-center text-[12.5px] font-semibold disabled:opacity-60 ${option.value === value ? "border-ink bg-ink text-paper" : "border-line bg-sheet text-ink hover:border-ink"}`}
          >
            {option.label}
          </button>
        ))}
        {control.unit}
      </div>
    );
  }
  return (
    <div
      role="spinbutton"
      tabIndex={0}
      aria-label={name}
      aria-valuenow={Number(value)}
      aria-valuemin={control.low}
      aria-valuemax={control.high}
      aria-valuetext={`${decimal(Number(value))} ${control.unit}`}
      aria-disabled={held}
      title={hint}
      onKeyDown={(event) => {
        onKeyDown(event);
        if (event.key === "ArrowUp" || event.key === "ArrowDown") {
          event.preventDefault();
          if (!held) step(event.key === "ArrowUp" ? 1 : -1);
        }
      }}
      className="relative flex items-center gap-1 rounded text-[12px] text-ink-2"
    >
      {outcome}
      <span className="mr-0.5">{control.label}</span>
      {([-1, 1] as const).map((by) => (
        <button
          key={by}
          type="button"
          tabIndex={-1}
          aria-label={`${name} ${by < 0 ? "down" : "up"}`}
          disabled={held || stepped(view, value, by) === undefined}
          onMouseEnter={() => setLooked(stepped(view, value, by))}
          onMouseLeave={() => setLooked(undefined)}
          onClick={() => step(by)}
          className={`rounded border border-line p-[2px] text-ink hover:border-ink disabled:opacity-40 ${by > 0 ? "order-3" : ""}`}
        >
          {by < 0 ? <Minus size={11} /> : <Plus size={11} />}
        </button>
      ))}
      <b className="order-2 min-w-[46px] text-center text-[12.5px] font-semibold text-ink">
        {decimal(Number(value))} {control.unit}
      </b>
    </div>
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

export function UnitCard({
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
              {all ? "fewer inputs" : `${folded} more inputs`}
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
}
