import { Minus, Plus } from "lucide-react";
import { Switch } from "radix-ui";
import { useEffect, useRef, useState } from "react";
import { One, OneOf } from "../../parts/OneOf";
import type { Change, Schemas, UnitView } from "../../api/client";
import { Outcome } from "./Outcome";
import { called } from "./called";

export type ControlView = Schemas["ControlView"];
type Value = Schemas["SetControl"]["value"];

const decimal = (value: number) => String(value).replace("-", "−");

function stepped({ control }: ControlView, value: Value, by: number): Value | undefined {
  if (control.kind === "choice") {
    const at = control.options.findIndex((o) => o.value === value);
    return control.options[at + by]?.value;
  }
  if (control.kind === "switch") return by > 0;
  const next = Math.min(control.high, Math.max(control.low, Number(value) + by * control.step));
  return next === value ? undefined : next;
}

interface Props {
  unit: UnitView;
  view: ControlView;
  locked: boolean;
  /** Looked at and not moved. */
  still?: boolean;
  onChange: (changes: Change[]) => void;
}

/** One switch, knob or selector; [ and ] move it while it has the focus, t tapes it where it stands. */
export function Knob(props: Props) {
  const { unit, view, onChange } = props;
  const tape = () => onChange([{ op: "guard", unit: unit.id, control: view.control.id, on: !view.taped }]);
  if (!view.can_be_taped) return <Dial {...props} />;
  const where = `${called(view.control)} of ${unit.name}`;
  return (
    // eslint-disable-next-line jsx-a11y/no-static-element-interactions -- a key of the controls within
    <div
      className="group/tape flex items-center justify-between gap-1"
      onKeyDown={(event) => {
        if (event.key === "t" && !event.metaKey && !event.ctrlKey) {
          event.preventDefault();
          tape();
        }
      }}
    >
      <div className={view.taped ? "taped rounded-sm px-1" : ""}>
        <Dial {...props} />
      </div>
      <button
        type="button"
        aria-pressed={view.taped}
        aria-label={view.taped ? `taped: take the tape off, ${where}` : `Tape where it stands: ${where}`}
        title={
          view.taped ? "taped: no hand moves it by the way; take the tape off" : "tape it where it stands"
        }
        disabled={props.still}
        onClick={tape}
        className={`flex min-h-[24px] min-w-[24px] shrink-0 items-center justify-center gap-0.5 rounded text-[11px] ${view.taped ? "text-ink" : "no-print text-ink-2 opacity-0 disabled:hidden group-hover/tape:opacity-100 group-focus-within/tape:opacity-100 focus-visible:opacity-100"}`}
      >
        {view.taped ? "taped" : <Tape />}
      </button>
    </div>
  );
}

/** A strip of tape, seen from above. */
const Tape = () => (
  <svg width="16" height="10" viewBox="0 0 16 10" aria-hidden className="fill-none stroke-current">
    <path d="M1 2l2 1.5L1 5l2 1.5L1 8h14l-2-1.5L15 5l-2-1.5L15 2z" strokeWidth="1.2" strokeLinejoin="round" />
  </svg>
);

function Dial({ unit, view, locked, still = false, onChange }: Props) {
  const { control, value, taped } = view;
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
  const live = locked && !control.safe_live;
  const held = taped || live || still;
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
  const name = `${unit.name}, ${called(control)}`;
  const onKeyDown = (event: React.KeyboardEvent) => {
    if (event.key === "[" || event.key === "]") {
      event.preventDefault();
      if (!held) step(event.key === "]" ? 1 : -1);
    }
  };
  const hint = live ? "stays as it is while the amp is on" : taped ? "taped where it stands" : undefined;
  if (control.kind === "switch") {
    return (
      <span className="relative">
        <Switch.Root
          {...look(!value)}
          checked={Boolean(value)}
          aria-label={name}
          disabled={held}
          title={hint}
          onKeyDown={onKeyDown}
          onCheckedChange={set}
          className={`flex min-h-[19px] items-center gap-1.5 text-left text-[12px] ${taped ? "text-ink" : "text-ink-2"} hover:text-ink ${live ? "opacity-60" : ""}`}
        >
          <span
            className={`flex h-[15px] w-[26px] rounded-full border-[1.5px] border-ink p-[1.5px] ${value ? "justify-end bg-ink" : "bg-sheet"}`}
          >
            <Switch.Thumb className="size-[9px] rounded-full bg-ink data-[state=checked]:bg-paper" />
          </span>
          {control.label} <b className="font-semibold text-ink">{value ? "on" : "off"}</b>
        </Switch.Root>
        {outcome}
      </span>
    );
  }
  if (control.kind === "choice") {
    return (
      <OneOf
        label={name}
        value={String(value)}
        onValue={set}
        className="relative flex flex-wrap items-center gap-1 text-[12px] text-ink-2"
      >
        {outcome}
        <span className="mr-0.5">{control.label}</span>
        {control.options.map((option) => (
          <One
            key={option.value}
            value={option.value}
            {...look(option.value)}
            disabled={held}
            title={hint}
            onKeyDown={onKeyDown}
            className={`min-w-[26px] rounded-[5px] border border-line bg-sheet px-1.5 py-px text-center text-[12.5px] font-semibold text-ink hover:border-ink aria-checked:border-ink aria-checked:bg-ink aria-checked:text-paper ${live ? "opacity-60" : ""}`}
          >
            {option.label}
            {option.value === view.picked && (
              <span className="ml-1 text-[11px] font-normal" title="what you picked for this amp and guitar">
                picked
              </span>
            )}
          </One>
        ))}
        {control.unit}
      </OneOf>
    );
  }
  if (still) {
    return (
      <p className="text-[12px] text-ink-2">
        {control.label}{" "}
        <b className="text-[12.5px] font-semibold text-ink">
          {decimal(Number(value))} {control.unit}
        </b>
      </p>
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
