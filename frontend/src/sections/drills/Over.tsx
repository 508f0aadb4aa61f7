import { useNavigate } from "react-router";
import { Button } from "../../parts/controls";
import { Right } from "./Right";
import { dayOf, type Sitting } from "./useDrills";

const NAMES: Record<string, string> = { own: "from your own locker", lightship: "from the lightship" };

/** A sitting that is over, whose questions are no longer kept: what was right in it. */
export function Over({ sitting }: { sitting: Sitting }) {
  const go = useNavigate();
  const counted = sitting.done.filter((each) => !each.once_more);
  return (
    <div className="mx-auto flex w-full max-w-[640px] flex-col gap-4 p-6">
      <div>
        <h2 className="text-[22px] font-bold">This sitting is over</h2>
        <p className="text-ink-2">
          {dayOf(sitting.began)}, {NAMES[sitting.source] ?? ""}:{" "}
          {counted.filter((each) => each.is_right).length} of {counted.length} right. Its questions are no
          longer kept.
        </p>
      </div>
      {sitting.done.length > 0 && (
        <ol className="border-t border-line" aria-label="What was asked">
          {sitting.done.map((each) => (
            <li key={each.id} className="flex items-center gap-2 border-b border-line py-1.5">
              <Right right={each.is_right} />
              <b className="font-semibold">{each.name}</b>
              <span className="text-[12.5px] text-ink-2">
                {each.kind}
                {each.once_more && ", once more"}
              </span>
            </li>
          ))}
        </ol>
      )}
      <div>
        <Button look="main" onClick={() => void go("/drills")}>
          To the score
        </Button>
      </div>
    </div>
  );
}
