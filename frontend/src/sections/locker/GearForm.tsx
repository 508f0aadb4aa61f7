import { Copy, Plus, Trash2 } from "lucide-react";
import { useState, type InputHTMLAttributes } from "react";
import { Button, Field, FIELD, TextInput } from "../../parts/controls";
import { typed } from "../../parts/typed";
import { useGear, useOwnSpeakers } from "./gear";
import {
  countedOn,
  fresh,
  freshDoc,
  shapeOf,
  typicalIn,
  withValue,
  type Doc,
  type Json,
  type Path,
  type Schema,
} from "./schema";
import { FieldTool } from "./FieldTool";
import { MeasuredCurve } from "./MeasuredCurve";
import { TwoReadings } from "./TwoReadings";

export interface Shared {
  root: Schema;
  doc: Doc;
  problems: Map<string, string>;
  onChange: (doc: Doc) => void;
}

const HIDDEN = new Set(["id", "kind", "typical", "inferred", "archived"]);
const keyOf = (path: Path) => path.join(".");
const listOf = (doc: Doc, name: string) => (Array.isArray(doc[name]) ? (doc[name] as string[]) : []);
const typicalOf = (doc: Doc) => listOf(doc, "typical");
const inferredOf = (doc: Doc) => listOf(doc, "inferred");

/** The document after an edit by hand: the field is neither a typical value nor an inferred one any longer. */
function edited(shared: Shared, path: Path, label: string, value: Json): Doc {
  const next = withValue(shared.doc, path, value) as Doc;
  const typical = typicalOf(next).filter((each) => each !== label);
  // A balanced lead has XLR at both ends more often than not: proposed while nobody has said otherwise.
  const plain = path[0] === "construction" && next.plug_a === "jack" && next.plug_b === "jack";
  const plugs: Doc = plain && value === "balanced" ? { plug_a: "xlr", plug_b: "xlr" } : {};
  const guesses = inferredOf(next);
  const inferred: Doc = guesses.length ? { inferred: guesses.filter((each) => each !== label) } : {};
  return { ...next, ...plugs, ...inferred, typical };
}

/** What Field hands to the control it frames. */
type Framed = { id?: string; "aria-describedby"?: string; "aria-invalid"?: boolean };
type Typed = Framed & { value: Json; onValue: (next: Json) => void };

/** Text that is read as a value, kept as it was typed until the field is left, so that "0." does not jump. */
function Draft({
  shown,
  onText,
  ...rest
}: Framed & { shown: string; onText: (text: string) => void } & InputHTMLAttributes<HTMLInputElement>) {
  const [text, setText] = useState<string>();
  return (
    <TextInput
      {...rest}
      value={text ?? shown}
      onChange={(event) => {
        setText(event.target.value);
        onText(event.target.value);
      }}
      onBlur={() => setText(undefined)}
    />
  );
}

/** The document with something new put in whose typical values are marked. */
function grown(shared: Shared, path: Path, of: Schema, value: Json): Doc {
  const next = withValue(shared.doc, path, value) as Doc;
  return { ...next, typical: [...new Set([...typicalOf(next), ...typicalIn(of, shared.root)])] };
}

function NumberInput({ value, onValue, ...rest }: Typed) {
  const shown = value === null || value === undefined ? "" : String(value).replace("-", "−");
  return <Draft {...rest} inputMode="decimal" shown={shown} onText={(text) => onValue(typed(text))} />;
}

function NumberList({ value, onValue, ...rest }: Typed) {
  const read = (text: string) =>
    onValue(
      text
        .split(/[,;\s]+/)
        .filter(Boolean)
        .map(typed),
    );
  return (
    <Draft {...rest} placeholder="none" shown={Array.isArray(value) ? value.join(", ") : ""} onText={read} />
  );
}

function OwnSpeaker({ value, onValue, ...rest }: Typed) {
  const speakers = useOwnSpeakers();
  return (
    <select
      {...rest}
      className={FIELD}
      value={String(value ?? "")}
      onChange={(event) => onValue(event.target.value)}
    >
      <option value="">none</option>
      {speakers.map((s) => (
        <option key={s.id} value={s.id}>
          {s.name}
        </option>
      ))}
    </select>
  );
}

/** A choice among the gear of a kind, by name. */
function Reference({ kind, value, onValue, ...rest }: Typed & { kind: string }) {
  const entries = useGear("", kind, false).data?.entries ?? [];
  const known = entries.some(({ unit }) => unit.id === value);
  return (
    <select
      {...rest}
      className={FIELD}
      value={String(value ?? "")}
      onChange={(event) => onValue(event.target.value)}
    >
      <option value="">none</option>
      {!known && value && <option value={String(value)}>{String(value)}, not in the locker</option>}
      {entries.map(({ unit }) => (
        <option key={unit.id} value={unit.id}>
          {unit.name}
        </option>
      ))}
    </select>
  );
}

function Item({
  shared,
  schema,
  path,
  value,
  place,
  onCopy,
  onRemove,
}: {
  shared: Shared;
  schema: Schema;
  path: Path;
  value: Doc;
  place: string;
  onCopy?: () => void;
  onRemove?: () => void;
}) {
  return (
    <fieldset className="relative rounded-lg border border-line p-3 pt-1">
      <legend className="px-1 text-[12px] font-semibold text-ink-2">{place}</legend>
      <Fields shared={shared} schema={schema} path={path} value={value} />
      <div className="mt-2 flex gap-1">
        {onCopy && (
          <Button look="quiet" className="!px-1.5 !py-0.5" onClick={onCopy}>
            <Copy size={13} /> Another like it
          </Button>
        )}
        {onRemove && (
          <Button look="quiet" className="!px-1.5 !py-0.5" onClick={onRemove}>
            <Trash2 size={13} /> Remove
          </Button>
        )}
      </div>
    </fieldset>
  );
}

function Objects({
  shared,
  schema,
  path,
  items,
  label,
}: {
  shared: Shared;
  schema: Schema;
  path: Path;
  items: Doc[];
  label: string;
}) {
  const item = schema.items!;
  const set = (next: Doc[]) => shared.onChange(withValue(shared.doc, path, next) as Doc);
  const room = items.length < (schema.maxItems ?? 99);
  return (
    <div className="col-span-full">
      <p className="mb-1 text-[13px] font-semibold">{label}</p>
      <div className="grid grid-cols-[repeat(auto-fill,minmax(min(100%,280px),1fr))] gap-2">
        {items.map((value, i) => (
          <Item
            key={`${keyOf(path)}.${i}.${items.length}`}
            shared={shared}
            schema={item}
            path={[...path, i]}
            value={value}
            place={`${label} ${i + 1}`}
            onCopy={
              room
                ? () => set([...items.slice(0, i + 1), another(value, items), ...items.slice(i + 1)])
                : undefined
            }
            onRemove={
              items.length > (schema.minItems ?? 0) ? () => set(items.filter((_, at) => at !== i)) : undefined
            }
          />
        ))}
      </div>
      {room && (
        <Button
          look="quiet"
          className="mt-1 mr-2"
          onClick={() => shared.onChange(grown(shared, path, item, [...items, freshDoc(item, shared.root)]))}
        >
          <Plus size={14} /> Add to {inSentence(label)}
        </Button>
      )}
      {path.length === 1 && <FieldTool name={keyOf(path)} doc={shared.doc} onChange={shared.onChange} />}
    </div>
  );
}

const inSentence = (label: string) => label[0]!.toLowerCase() + label.slice(1);

/** A copy of a part: its name, or the position it stands for, counts on from those there are. */
const another = (value: Doc, items: Doc[]): Doc => {
  const key = ["name", "at"].find((each) => typeof value[each] === "string");
  const others = items.map((item) => String(item[key ?? ""]));
  return key ? { ...value, [key]: countedOn(String(value[key]), others) } : { ...value };
};

function OneField({
  shared,
  name,
  schema,
  path,
  value,
}: {
  shared: Shared;
  name: string;
  schema: Schema;
  path: Path;
  value: Json;
}) {
  const { kind, of, nullable } = shapeOf(schema, shared.root, name);
  const label = schema.title ?? name;
  const problem = shared.problems.get(keyOf(path));
  const set = (next: Json) => shared.onChange(edited(shared, path, label, next));
  const typical = typicalOf(shared.doc).includes(label);
  const guessed = inferredOf(shared.doc).includes(label);
  const offered = schema["x-typical"];
  const hint = (
    <>
      {schema.description}
      {(typical || guessed) && (
        <>
          <span className="rounded bg-shoal px-1 font-medium text-ink">
            {typical ? "typical, not measured" : "inferred from a reading"}
          </span>{" "}
          <button type="button" className="inline-block min-h-[24px] underline" onClick={() => set(value)}>
            it is known
          </button>
        </>
      )}
      {!typical &&
        offered !== undefined &&
        (kind === "number" || kind === "choice") &&
        (value === null || value === "" || value === undefined) && (
          <button
            type="button"
            className="inline-block min-h-[24px] underline"
            onClick={() => {
              const next = withValue(
                shared.doc,
                path,
                kind === "choice" ? Number(offered) || offered : offered,
              ) as Doc;
              shared.onChange({ ...next, typical: [...typicalOf(next), label] });
            }}
          >
            use the typical {String(offered).replace("-", "−")} {schema["x-unit"]}
          </button>
        )}
      {name === "damping_factor" && (
        <>
          {" "}
          <TwoReadings tap={firstTap(shared.doc)} onUse={set} />
        </>
      )}
    </>
  );
  const needed = schema["x-needed"] ?? (name === "name" && path.length === 1);
  const frame = { label, unit: schema["x-unit"], problem, hint, needed };
  if (kind === "objects") {
    return (
      <Objects
        shared={shared}
        schema={{ ...of, ...pickBounds(schema) }}
        path={path}
        items={(value ?? []) as Doc[]}
        label={label}
      />
    );
  }
  if (name === "measured") return <MeasuredCurve value={value as Doc | null} onValue={set} />;
  if (kind === "object") {
    if (nullable) {
      return (
        <div className="col-span-full">
          <label className="flex items-center gap-2 text-[13px] font-semibold">
            <input
              type="checkbox"
              className="accent-[var(--deep)]"
              checked={value !== null}
              onChange={(event) =>
                event.target.checked
                  ? shared.onChange(grown(shared, path, of, freshDoc(of, shared.root)))
                  : set(null)
              }
            />
            {label}
          </label>
          {value !== null && (
            <Item shared={shared} schema={of} path={path} value={value as Doc} place={label} />
          )}
        </div>
      );
    }
    return (
      <details className="col-span-full rounded-lg border border-line p-2">
        <summary className="cursor-pointer text-[13px] font-semibold">{label}</summary>
        <p className="my-1 text-[12px] text-ink-2">
          Left empty, typical values for the rated impedance are used, and marked.
        </p>
        <Fields shared={shared} schema={of} path={path} value={value as Doc} />
      </details>
    );
  }
  if (kind === "switch") {
    return (
      <label className="flex items-center gap-2 self-end pb-1.5 text-[13px] font-medium">
        <input
          type="checkbox"
          className="accent-[var(--deep)]"
          checked={Boolean(value)}
          onChange={(event) => set(event.target.checked)}
        />
        {label}
      </label>
    );
  }
  if (kind === "choice") {
    return (
      <Field {...frame}>
        <select
          className={FIELD}
          value={String(value ?? "")}
          onChange={(event) => set(of.enum!.find((o) => String(o) === event.target.value) ?? null)}
        >
          {of.enum!.map((option) => (
            <option key={option} value={option}>
              {schema["x-names"]?.[option] ?? of["x-names"]?.[option] ?? option}
            </option>
          ))}
        </select>
      </Field>
    );
  }
  if (kind === "long") {
    return (
      <div className="col-span-full">
        <Field {...frame}>
          <textarea
            rows={2}
            className={FIELD}
            value={String(value ?? "")}
            onChange={(event) => set(event.target.value)}
          />
        </Field>
      </div>
    );
  }
  return (
    <Field {...frame}>
      {kind === "number" ? (
        <NumberInput value={value} onValue={set} />
      ) : kind === "numbers" ? (
        <NumberList value={value} onValue={set} />
      ) : schema["x-refers"] ? (
        <Reference kind={schema["x-refers"]} value={value} onValue={set} />
      ) : name === "inner_speaker" ? (
        <OwnSpeaker value={value} onValue={set} />
      ) : (
        <TextInput
          maxLength={of.maxLength}
          value={String(value ?? "")}
          onChange={(event) => set(event.target.value)}
        />
      )}
    </Field>
  );
}

/** Impedance of an amp's first tap, Ω. */
const firstTap = (doc: Doc) => Number((doc.taps as Doc[] | undefined)?.[0]?.impedance ?? 8);

const pickBounds = ({ minItems, maxItems }: Schema) => ({
  ...(minItems !== undefined && { minItems }),
  ...(maxItems !== undefined && { maxItems }),
});

function Fields({
  shared,
  schema,
  path,
  value,
  only,
}: {
  shared: Shared;
  schema: Schema;
  path: Path;
  value: Doc;
  only?: readonly string[];
}) {
  const all = Object.entries(schema.properties ?? {}).filter(
    ([name]) => path.length > 0 || !HIDDEN.has(name),
  );
  const shown = only ? only.flatMap((name) => all.filter(([own]) => own === name)) : all;
  return (
    <div className="grid grid-cols-[repeat(auto-fill,minmax(min(100%,190px),1fr))] gap-x-4 gap-y-2.5">
      {shown.map(([name, field]) => (
        <OneField
          key={name}
          shared={shared}
          name={name}
          schema={field}
          path={[...path, name]}
          value={value[name] === undefined ? fresh(field, shared.root) : value[name]}
        />
      ))}
    </div>
  );
}

/** The names of the fields of a kind of gear, in their order. */
export const fieldNames = (root: Schema) =>
  Object.keys(root.properties ?? {}).filter((name) => !HIDDEN.has(name));

/** The form of a kind of gear, or of some of its fields, drawn from its schema: labels, units, bounds come with it. */
export function GearForm({ only, ...shared }: Shared & { only?: readonly string[] }) {
  return <Fields shared={shared} schema={shared.root} path={[]} value={shared.doc} only={only} />;
}
