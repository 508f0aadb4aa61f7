import { useEffect } from "react";
import { Link } from "react-router";
import { Button } from "../../parts/controls";
import { clockAt, lengthWords } from "./clock";
import { blockKey, type Plan } from "./usePlan";

const DOING = { find: "find", play: "play", rest: "rest", choose: "choose" };

/** A plan to be printed: day by day, each block with a box to tick. */
export function Printed({ plan }: { plan: Plan }) {
  useEffect(() => {
    document.title = `Plan: ${plan.name} · Low Tide`;
  }, [plan.name]);
  return (
    <div className="prints mx-auto w-full max-w-[820px] overflow-y-auto p-6">
      <div className="no-print mb-4 flex items-center gap-3">
        <Button look="main" onClick={() => window.print()}>
          Print
        </Button>
        <a className="underline" href={`/api/plans/${plan.id}/plan.md`} download>
          Markdown
        </a>
        <Link className="underline" to={`/plan/${plan.id}`}>
          Back to the plan
        </Link>
      </div>
      <h2 className="text-[22px] font-bold">{plan.name}</h2>
      <p className="text-ink-2">
        {plan.changes} change-overs, {plan.plugs} plugs moved. Ears by: {plan.school}. Levels are estimates;
        limits of the house, local codes and makers’ manuals stand above this plan.
      </p>
      {plan.days.map((day) => (
        <section key={day.date} className="mt-4 break-inside-avoid">
          <h3 className="border-b border-ink text-[16px] font-bold">
            {day.name}
            {day.note && <span className="font-normal">, {day.note}</span>}
          </h3>
          {day.people.map((span) => (
            <p key={`${span.words} ${span.start}`} className="text-[13px]">
              {span.words}, {clockAt(day, span.start)} to {clockAt(day, span.stop)}
            </p>
          ))}
          {day.blocks.length === 0 && <p className="text-[13px] text-ink-2">Nothing is laid on this day.</p>}
          <ul>
            {day.blocks.map((block) => (
              <li key={blockKey(block)} className="flex gap-3 border-b border-line py-1">
                <span className="w-[110px] shrink-0 font-semibold">{block.at.replace(" to ", "–")}</span>
                <span
                  aria-hidden
                  className="mt-0.5 size-4 shrink-0 border-[1.5px] border-ink text-center leading-3"
                >
                  {block.done && "×"}
                </span>
                <span className="min-w-0 flex-1">
                  <b>
                    {block.song}, {block.name}
                    {block.choosing && ": choose the sound"}
                  </b>{" "}
                  {block.loud ? "loud" : "silent"};{" "}
                  {block.stretches
                    .map(({ doing, slots }) => `${DOING[doing]} ${lengthWords(slots * 5)}`)
                    .join(", ")}
                  {block.through && <span className="block text-[13px]">Through {block.through}</span>}
                  {block.plugs > 0 && (
                    <span className="block text-[13px]">
                      Before it, {lengthWords(block.change * 5)}: {block.plugs} plugs moved, by its run sheet
                    </span>
                  )}
                  {block.wrong.map((said) => (
                    <span key={said} className="block text-[13px] font-semibold">
                      Does not hold: {said}
                    </span>
                  ))}
                </span>
              </li>
            ))}
          </ul>
        </section>
      ))}
      {plan.left_out.length > 0 && (
        <section className="mt-4">
          <h3 className="border-b border-ink text-[16px] font-bold">Not laid</h3>
          <p>{plan.left_out.map((left) => left.name).join("; ")}</p>
        </section>
      )}
    </div>
  );
}
