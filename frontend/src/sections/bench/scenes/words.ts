import type { BenchState, Schemas } from "../../../api/client";

export type Scene = Schemas["Scene"];
export type Control = Schemas["Control"];
export type Value = Schemas["SetAt"]["value"];

/** A setting as the control itself names it. */
export function valueWords(control: Control, value: Value): string {
  if (control.kind === "switch") return value ? "on" : "off";
  const words =
    control.kind === "choice"
      ? (control.options.find((o) => o.value === value)?.label ?? String(value))
      : String(value);
  return `${words} ${control.unit}`.trim().replace("-", "−");
}

/** A control that a scene may set, and where it stands now. */
export interface Movable {
  unit: string;
  name: string;
  control: Control;
  value: Value;
  taped: boolean;
  /** Of what one plays through with hands and feet, and not of the boxes behind the amp. */
  played: boolean;
}

const PLAYED = ["guitar", "pedal", "processor", "amp"];

export const keyOf = (at: { unit: string; control: string }) => `${at.unit}/${at.control}`;

/** Every control that may be moved while the amp is on, in the order of the hook-up. */
export const movable = (state: BenchState): Movable[] =>
  state.units.flatMap((unit) =>
    unit.controls
      .filter((view) => view.control.safe_live)
      .map(({ control, value, taped }) => ({
        unit: unit.id,
        name: unit.name,
        control,
        value,
        taped,
        played: PLAYED.includes(unit.kind) && (!control.folded || unit.kind === "guitar"),
      })),
  );

/** The hook-up as it stands, in what a scene says. */
export function asItStands(scene: Scene, state: BenchState): Scene {
  const now = new Map(movable(state).map((m) => [keyOf({ unit: m.unit, control: m.control.id }), m.value]));
  const settings = (scene.settings ?? []).map((at) => ({ ...at, value: now.get(keyOf(at)) ?? at.value }));
  return { ...scene, settings, order: scene.order?.length ? state.in_series.flat() : [] };
}
