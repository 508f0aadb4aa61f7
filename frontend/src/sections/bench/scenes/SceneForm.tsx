import { ArrowDown, ArrowUp, Plus, Trash2 } from "lucide-react";
import { useState } from "react";
import type { BenchState, Change } from "../../../api/client";
import { Button, Field, FIELD, TextInput } from "../../../parts/controls";
import { typed } from "../../../parts/typed";
import { keyOf, movable, valueWords, type Control, type Movable, type Scene, type Value } from "./words";
import { calledWithin } from "../called";

/** What a scene may say of one control: whether it sets it, and to what, as it was typed. */
interface Row extends Movable {
  key: string;
  chosen: boolean;
  typed: string;
}

const shown = (control: Control, value: Value) =>
  control.kind === "range" ? String(value).replace("-", "−") : String(value);

function rowsOf(state: BenchState, scene: Scene | undefined): Row[] {
  const others = new Set(state.analysis.scenes.flatMap((s) => s.scene.settings.map(keyOf)));
  return movable(state).map((m) => {
    const key = keyOf({ unit: m.unit, control: m.control.id });
    const said = scene?.settings.find((at) => keyOf(at) === key);
    const fresh = others.size ? others.has(key) : m.played;
    return {
      ...m,
      key,
      chosen: scene ? said !== undefined : fresh && !m.taped,
      typed: shown(m.control, said ? said.value : m.value),
    };
  });
}

function valueOf({ control, typed: text }: Row): Value {
  if (control.kind === "switch") return text === "true";
  return control.kind === "choice" ? text : (typed(text) ?? "");
}

function problemOf(row: Row): string | undefined {
  const { control } = row;
  const value = valueOf(row);
  if (!row.chosen || control.kind !== "range") return undefined;
  const inside = typeof value === "number" && value >= control.low && value <= control.high;
  return inside ? undefined : `${valueWords(control, control.low)} to ${valueWords(control, control.high)}`;
}

/** A scene: its name, what it sets, the order of pedals, and knobs in words. */
export function SceneForm({
  state,
  scene,
  onSave,
  onClose,
}: {
  state: BenchState;
  /** Missing for a new one. */
  scene?: Scene;
  onSave: (changes: Change[]) => void;
  onClose: () => void;
}) {
  const [name, setName] = useState(scene?.name ?? "");
  const [rows, setRows] = useState(() => rowsOf(state, scene));
  const [orders, setOrders] = useState(() =>
    state.in_series.map((run) => {
      const said = scene?.order.filter((unit) => run.includes(unit)) ?? [];
      return said.length === run.length ? said : run;
    }),
  );
  const [knobs, setKnobs] = useState(scene?.knobs ?? []);
  const [all, setAll] = useState(() => rowsOf(state, scene).some((row) => row.chosen && !row.played));
  const [tried, setTried] = useState(false);
  const taken =
    name.trim() !== scene?.name && state.analysis.scenes.some((s) => s.scene.name === name.trim());
  const nameProblem = !name.trim()
    ? "A scene needs a name."
    : taken
      ? "There is a scene of that name already."
      : undefined;
  const set = (key: string, next: Partial<Row>) =>
    setRows(rows.map((row) => (row.key === key ? { ...row, ...next } : row)));
  const units = new Map(state.units.map((u) => [u.id, u.name]));
  const save = () => {
    setTried(true);
    if (nameProblem || rows.some(problemOf)) return;
    const made: Scene = {
      name: name.trim(),
      settings: rows
        .filter((row) => row.chosen)
        .map((row) => ({ unit: row.unit, control: row.control.id, value: valueOf(row) })),
      order: orders.filter((order, at) => order.some((u, i) => u !== state.in_series[at]?.[i])).flat(),
      knobs: knobs.filter((k) => k.name.trim()),
    };
    onSave([{ op: "scene", scene: made, was: scene?.name ?? "" }]);
  };
  const listed = rows.filter((row) => all || row.played || row.chosen);
  return (
    <form
      aria-label={scene ? `Scene “${scene.name}”` : "New scene"}
      className="grid gap-3"
      onSubmit={(event) => {
        event.preventDefault();
        save();
      }}
    >
      <Field label="Scene" problem={tried ? nameProblem : undefined}>
        <TextInput
          autoFocus
          maxLength={60}
          value={name}
          placeholder="verse, answer …"
          onChange={(event) => setName(event.target.value)}
        />
      </Field>
      <fieldset>
        <legend className="mb-1 text-[13px] font-medium">It sets</legend>
        <ul className="grid gap-1">
          {listed.map((row) => (
            <li key={row.key} className="flex min-h-[28px] items-center gap-2">
              <label className="flex min-w-0 flex-1 items-center gap-2">
                <input
                  type="checkbox"
                  className="accent-[var(--deep)]"
                  checked={row.chosen}
                  disabled={row.taped && !row.chosen}
                  onChange={(event) => set(row.key, { chosen: event.target.checked })}
                />
                <span className="truncate">
                  {row.name}: {calledWithin(row.control)}
                  {row.taped && <span className="text-ink-2"> (taped where it stands)</span>}
                </span>
              </label>
              {problemOf(row) && (
                <span role="alert" className="text-[12.5px] text-stop">
                  {problemOf(row)}
                </span>
              )}
              <To row={row} onValue={(text) => set(row.key, { typed: text, chosen: true })} />
            </li>
          ))}
        </ul>
        {!all && (
          <Button look="quiet" onClick={() => setAll(true)}>
            <Plus size={14} /> Boxes and the interface as well
          </Button>
        )}
      </fieldset>
      {orders.map((order, at) => (
        <Order
          key={state.in_series[at]?.join()}
          order={order}
          names={units}
          onOrder={(next) => setOrders(orders.map((each, i) => (i === at ? next : each)))}
        />
      ))}
      <Knobs knobs={knobs} onKnobs={setKnobs} />
      <div className="flex justify-end gap-2">
        <Button onClick={onClose}>Leave it</Button>
        <Button look="main" type="submit">
          {scene ? "Save" : "Add the scene"}
        </Button>
      </div>
    </form>
  );
}

function To({ row, onValue }: { row: Row; onValue: (text: string) => void }) {
  const label = `${row.name}: ${calledWithin(row.control)}, set to`;
  const { control } = row;
  const options =
    control.kind === "switch"
      ? [
          { value: "true", label: "on" },
          { value: "false", label: "off" },
        ]
      : control.options;
  return control.kind === "range" ? (
    <span className="flex w-[130px] items-center gap-1">
      <TextInput
        aria-label={label}
        aria-invalid={Boolean(problemOf(row))}
        inputMode="decimal"
        value={row.typed}
        disabled={row.taped}
        onChange={(event) => onValue(event.target.value)}
      />
      <span className="w-8 text-[12.5px] text-ink-2">{control.unit}</span>
    </span>
  ) : (
    <select
      aria-label={label}
      className={`${FIELD} !w-[130px]`}
      value={row.typed}
      disabled={row.taped}
      onChange={(event) => onValue(event.target.value)}
    >
      {options.map((o) => (
        <option key={o.value} value={o.value}>
          {`${o.label} ${control.unit}`.trim()}
        </option>
      ))}
    </select>
  );
}

/** Pedals of one row, from the guitar on. */
function Order({
  order,
  names,
  onOrder,
}: {
  order: string[];
  names: Map<string, string>;
  onOrder: (next: string[]) => void;
}) {
  const swap = (at: number, by: number) => {
    const next = [...order];
    [next[at], next[at + by]] = [next[at + by]!, next[at]!];
    onOrder(next);
  };
  return (
    <fieldset>
      <legend className="mb-1 text-[13px] font-medium">Pedals in the order</legend>
      <ol className="grid gap-1">
        {order.map((unit, at) => (
          <li key={unit} className="flex items-center gap-1">
            <span className="flex-1">
              {at + 1}. {names.get(unit) ?? unit}
            </span>
            <Button
              look="quiet"
              className="!px-1"
              aria-label={`${names.get(unit)} earlier`}
              disabled={at === 0}
              onClick={() => swap(at, -1)}
            >
              <ArrowUp size={15} />
            </Button>
            <Button
              look="quiet"
              className="!px-1"
              aria-label={`${names.get(unit)} later`}
              disabled={at === order.length - 1}
              onClick={() => swap(at, 1)}
            >
              <ArrowDown size={15} />
            </Button>
          </li>
        ))}
      </ol>
    </fieldset>
  );
}

/** What no control of the picture stands for, in words. */
function Knobs({ knobs, onKnobs }: { knobs: Scene["knobs"]; onKnobs: (next: Scene["knobs"]) => void }) {
  const set = (at: number, next: Partial<Scene["knobs"][number]>) =>
    onKnobs(knobs.map((knob, i) => (i === at ? { ...knob, ...next } : knob)));
  return (
    <fieldset>
      <legend className="mb-1 text-[13px] font-medium">
        In words <span className="font-normal text-ink-2">channel, gain, what else no picture shows</span>
      </legend>
      {knobs.map((knob, at) => (
        <div key={at} className="mb-1 flex gap-1">
          <TextInput
            aria-label={`Knob ${at + 1}, name`}
            maxLength={60}
            value={knob.name}
            onChange={(event) => set(at, { name: event.target.value })}
          />
          <TextInput
            aria-label={`${knob.name || `Knob ${at + 1}`}, set to`}
            placeholder="set to"
            className="!w-[130px]"
            maxLength={60}
            value={knob.value}
            onChange={(event) => set(at, { value: event.target.value })}
          />
          <Button
            look="quiet"
            className="!px-1"
            aria-label={`Remove ${knob.name || `knob ${at + 1}`}`}
            onClick={() => onKnobs(knobs.filter((_, i) => i !== at))}
          >
            <Trash2 size={14} />
          </Button>
        </div>
      ))}
      <Button look="quiet" onClick={() => onKnobs([...knobs, { name: "", value: "" }])}>
        <Plus size={14} /> A knob in words
      </Button>
    </fieldset>
  );
}
