import type { Schemas } from "../../api/client";
import { INK } from "../../parts/Mark";
import { ohms, watts } from "../../parts/table";
import type { ControlView } from "./Knob";
import { called } from "./called";

const BAR: Record<string, string> = { stop: "bg-stop", caution: "bg-caution" };

/** What an amp sees at its jack, and what it gives flat out. */
export function Sees({ sees, match, brief }: { sees: Schemas["AmpResult"]; match: string; brief: boolean }) {
  return (
    <p className="text-[12px] text-ink-2">
      sees{" "}
      <b className={`font-bold ${brief ? "text-[14px]" : "text-[16px]"} ${INK[match]}`}>
        {sees.sees === null ? "no load" : ohms(sees.sees)}
      </b>
      {brief ? (
        <>, {watts(sees.flat_power).replace(" ", "\u00a0")}</>
      ) : (
        <> · about {watts(sees.flat_power)} flat out</>
      )}
    </p>
  );
}

/** What a unit takes of what it is rated for. */
export function Takes({ share, power, brief }: { share: Schemas["Share"]; power: string; brief: boolean }) {
  const rating = share.rating ? watts(share.rating) : "an unknown rating";
  const taken =
    share.at && !brief
      ? `now ${watts(share.now)}, at most ${watts(share.flat)}`
      : brief
        ? watts(share.flat)
        : `takes ${watts(share.flat)}`;
  return (
    <div className="text-[12px] text-ink-2" title={share.at}>
      {taken} of {rating}
      <div
        className={`mt-0.5 overflow-hidden rounded-full bg-faint ${brief ? "h-[5px]" : "h-[8px]"}`}
        aria-hidden
      >
        <div
          className={`h-full rounded-full ${BAR[power] ?? "bg-deep"}`}
          style={{ width: `${Math.min(100, share.rating ? (100 * share.flat) / share.rating : 100)}%` }}
        />
      </div>
    </div>
  );
}

/** How a control stands, in a word or two. */
function position({ control, value }: ControlView): string {
  if (control.kind === "switch") return `${called(control)} ${value ? "on" : "off"}`;
  const at =
    control.kind === "choice"
      ? (control.options.find((o) => o.value === value)?.label ?? String(value))
      : String(value).replace("-", "−");
  return `${called(control)} ${at}${control.unit ? ` ${control.unit}` : ""}`;
}

/** The controls that do not stand as usual, in one line; or how all of them stand. */
export function Settings({ controls, all }: { controls: ControlView[]; all: boolean }) {
  const words = controls
    .filter((view) => all || view.value !== view.control.default || view.taped)
    .map((view) => position(view) + (view.taped ? ", taped" : ""))
    .join("; ");
  return words ? (
    <p className={`${all ? "" : "truncate"} text-[12px] text-ink-2`} title={words}>
      {words}
    </p>
  ) : null;
}
