import { Button } from "../../../parts/controls";
import { shown, useReadingKinds } from "../Reading";
import type { Held } from "./store";
import type { useHeld } from "./useHeld";

/** What is held here, and what of it could not be put in. */
export function HeldNote({ held: { held, leftOut, forget } }: { held: ReturnType<typeof useHeld> }) {
  const kinds = useReadingKinds().data?.kinds;
  const unit = (each: Held) => kinds?.find((kind) => kind.quantity === each.quantity)?.unit ?? "";
  const said = (each: Held) => {
    if (each.kind === "reading") return `${each.words}: ${shown(each.value, unit(each))}`;
    return `${each.words}: ${each.done ? "done" : "not done after all"}`;
  };
  const readings = held.filter((each) => each.kind === "reading").length;
  const ticks = held.length - readings;
  const counts = [
    ticks && `${ticks} ${ticks === 1 ? "tick" : "ticks"}`,
    readings && `${readings} ${readings === 1 ? "reading" : "readings"}`,
  ].filter(Boolean);
  return (
    <>
      {held.length > 0 && (
        <p
          role="status"
          className="no-print sticky top-0 z-10 border-b border-line bg-shoal px-4 py-1.5 font-semibold"
        >
          {counts.join(" and ")} held on this device, not sent yet.
          {readings > 0 && " What was read is not judged yet: do not switch on by it."}
        </p>
      )}
      {leftOut.length > 0 && (
        <section
          role="alert"
          aria-label="Held, and not put in"
          className="no-print sticky top-0 z-10 border-b border-caution bg-sheet px-4 py-2"
        >
          <p className="font-semibold">Held here without a network, and not put in:</p>
          <ul className="my-1 list-disc pl-5">
            {leftOut.map((each) => (
              <li key={each.key}>
                {said(each)}. <span className="text-ink-2">{each.why}</span>
              </li>
            ))}
          </ul>
          <Button onClick={forget}>I have seen it</Button>
        </section>
      )}
    </>
  );
}
