/** Reading the JSON Schema of a kind of gear, as far as its form needs it. */

export type Json = string | number | boolean | null | Json[] | { [key: string]: Json };
export type Doc = { [key: string]: Json };
export type Path = (string | number)[];

export interface Schema {
  $ref?: string;
  $defs?: Record<string, Schema>;
  anyOf?: Schema[];
  type?: string;
  enum?: (string | number)[];
  const?: Json;
  title?: string;
  description?: string;
  default?: Json;
  properties?: Record<string, Schema>;
  items?: Schema;
  minimum?: number;
  maximum?: number;
  maxLength?: number;
  minItems?: number;
  maxItems?: number;
  "x-unit"?: string;
  "x-typical"?: number | string;
  "x-names"?: Record<string, string>;
  "x-refers"?: string;
  /** A verdict rests on it. */
  "x-needed"?: boolean;
  /** Its default says that there is none of it, and claims nothing. */
  "x-neutral"?: boolean;
}

export interface Shape {
  kind: "text" | "long" | "number" | "switch" | "choice" | "object" | "objects" | "numbers";
  /** The schema of the value itself, references followed. */
  of: Schema;
  nullable: boolean;
}

function resolve(schema: Schema, root: Schema): Schema {
  if (!schema.$ref) return schema;
  const target = root.$defs?.[schema.$ref.split("/").at(-1)!] ?? {};
  // A title on the reference names the field; the one on the target only names the class.
  return { ...target, ...schema, $ref: undefined };
}

/** How a field is to be shown. */
export function shapeOf(schema: Schema, root: Schema, name = ""): Shape {
  const nullable = schema.anyOf?.some((s) => s.type === "null") ?? false;
  const of = resolve(schema.anyOf?.find((s) => s.type !== "null") ?? schema, root);
  if (of.enum) return { kind: "choice", of, nullable };
  if (of.type === "boolean") return { kind: "switch", of, nullable };
  if (of.type === "number" || of.type === "integer") return { kind: "number", of, nullable };
  if (of.type === "object") return { kind: "object", of, nullable };
  if (of.type === "array") {
    const item = resolve(of.items ?? {}, root);
    return item.type === "object"
      ? { kind: "objects", of: { ...of, items: item }, nullable }
      : { kind: "numbers", of, nullable };
  }
  return { kind: name === "notes" ? "long" : "text", of, nullable };
}

/** A fresh value for a schema: its default, or what is emptiest. */
export function fresh(schema: Schema, root: Schema): Json {
  if (schema.default !== undefined) return schema.default;
  const { kind, of, nullable } = shapeOf(schema, root);
  if (nullable) return null;
  if (of.const !== undefined) return of.const;
  if (kind === "object") return freshDoc(of, root);
  if (kind === "objects" || kind === "numbers") return [];
  if (kind === "switch") return false;
  return "";
}

export function freshDoc(schema: Schema, root: Schema): Doc {
  return Object.fromEntries(
    Object.entries(schema.properties ?? {}).map(([name, s]) => [name, fresh(s, root)]),
  );
}

/** Whether a value that a form brings along is a number somebody might take for known. */
const isFigure = (value: Json | undefined): boolean =>
  typeof value === "number" || (Array.isArray(value) && value.length > 0 && value.every(isFigure));

/** Labels of fields whose number came with the form; they stay marked until somebody says otherwise. */
export function typicalIn(schema: Schema, root: Schema): string[] {
  return Object.values(schema.properties ?? {}).flatMap((field) => {
    const { kind, of, nullable } = shapeOf(field, root);
    if (kind === "object" && !nullable) return typicalIn(of, root);
    if (kind === "objects" && Array.isArray(field.default) && field.default.length)
      return typicalIn(of.items!, root);
    const typical = field["x-typical"];
    const offered = typical !== undefined && String(field.default) === String(typical);
    const brought = isFigure(field.default) && !field["x-neutral"];
    return offered || brought ? [field.title ?? ""] : [];
  });
}

/** Names of the fields a verdict rests on. */
export const neededIn = (schema: Schema) =>
  Object.entries(schema.properties ?? {}).flatMap(([name, field]) => (field["x-needed"] ? [name] : []));

/** A name that counts on: "input 1" → "input 2"; one without a number stays as it is. */
export function countedOn(name: string, others: string[]): string {
  const found = /^(.*?)(\d+)$/.exec(name);
  if (!found) return name;
  const [, stem, digits] = found;
  const used = others.flatMap((o) => (o.startsWith(stem!) ? [Number(o.slice(stem!.length))] : []));
  return `${stem}${Math.max(Number(digits), ...used.filter(Number.isFinite)) + 1}`;
}

/** A copy of `doc` with the value at `path` replaced. */
export function withValue(doc: Json, path: Path, value: Json): Json {
  const [step, ...rest] = path;
  if (step === undefined) return value;
  if (Array.isArray(doc)) return doc.map((item, i) => (i === step ? withValue(item, rest, value) : item));
  const object = (doc ?? {}) as Doc;
  return { ...object, [step]: withValue(object[step] ?? null, rest, value) };
}
