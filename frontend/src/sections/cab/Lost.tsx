import type { Schemas } from "../../api/client";
import { fixed } from "../../parts/table";
import { LETTERS, type Blend } from "./useBlend";

const BANDS = [
  ["low", "low"],
  ["low_mid", "low-mid"],
  ["presence", "presence"],
  ["top", "top"],
] as const;

/** What phase takes from the blend, band by band, and where its parts first cancel. */
export function Lost({ state }: { state: Blend }) {
  if (!state.lost) return null;
  const some = (bands: Schemas["ToneBands"], sign: 1 | -1) =>
    BANDS.filter(([id]) => sign * bands[id] >= 0.05)
      .map(([id, name]) => `${name} ${fixed(Math.abs(bands[id]), 1)} dB`)
      .join(", ");
  const [lost, gained] = [some(state.lost, 1), some(state.lost, -1)];
  const before = state.lost_recorded ? some(state.lost_recorded, 1) : "";
  const worst = Math.max(...BANDS.map(([id]) => state.lost![id]));
  const notches = state.notches.slice(0, 3);
  return (
    <p className="shrink-0 px-5 pt-1 pb-2 text-[12.5px]">
      <b className={worst > 1 ? "text-caution" : ""}>Lost to phase: {lost || "nothing"}.</b>{" "}
      {gained && <span>Gained by it: {gained}. </span>}
      {state.lost_recorded && state.doc.line_up !== "recorded" && (
        <span className="text-ink-2">As recorded it lost {before || "nothing"}. </span>
      )}
      {notches.length > 0 && (
        <span className="text-ink-2">
          First notch of{" "}
          {notches
            .map(
              (n) =>
                `${LETTERS[n.first]} and ${LETTERS[n.second]} at ${n.hz < 1000 ? Math.round(n.hz) : `${fixed(n.hz / 1000, 1)} k`}${n.hz < 1000 ? " Hz" : "Hz"}`,
            )
            .join(", ")}
          .{" "}
        </span>
      )}
      {state.stereo && (
        <span className="text-ink-2">Folded to mono it changes by {fixed(state.fold, 1)} dB. </span>
      )}
      {state.later > 0 && (
        <span className="text-ink-2">
          All of it comes {fixed(state.later, 2)} ms later, since a part is drawn forward.
        </span>
      )}
    </p>
  );
}
