import type { UnitView } from "../../api/client";
import type { SocketView } from "./Jack";
import type { ControlView } from "./Knob";

/** Sockets and knobs of an interface's inputs nobody uses stay folded, so that its card stays short. */
export function visible(
  unit: UnitView,
  all: boolean,
): { sockets: SocketView[]; controls: ControlView[]; folded: number } {
  if (unit.kind !== "interface") return { sockets: unit.sockets, controls: unit.controls, folded: 0 };
  const used = new Set(unit.sockets.filter((s) => s.lead).map((s) => s.socket.id));
  const own = new Set(unit.sockets.map((s) => s.socket.id));
  const keep = (id: string) => used.has(id.split(".")[0]!);
  // What belongs to no socket (its clock, how one hears oneself) belongs to the unit.
  const belongs = (id: string) => keep(id) || !own.has(id.split(".")[0]!);
  const shown = unit.sockets.filter((s) => all || used.size === 0 || keep(s.socket.id));
  return {
    sockets: shown,
    controls: unit.controls.filter((c) => belongs(c.control.id)),
    folded: unit.sockets.length - shown.length,
  };
}
