import { useState } from "react";
import { ChartFrame } from "../../parts/ChartFrame";
import { Confirm } from "../../parts/Confirm";
import { Button } from "../../parts/controls";
import { Empty, Failed } from "../../parts/states";
import { Course } from "./Course";
import { dayOf, percent, time, useReset, type DrillsState } from "./useDrills";

/** What was not asked for yet, and the gear it wants. */
function NotYet({ state }: { state: DrillsState }) {
  const cards = state.cards.filter((card) => !card.due);
  if (cards.length === 0) return null;
  return (
    <details>
      <summary className="cursor-pointer text-[13px] font-bold">
        Not asked for yet: {cards.length} cards
      </summary>
      <ul className="mt-1">
        {cards.map((card) => (
          <li key={card.id} className="border-t border-line py-1 text-[13px]">
            <b className="font-semibold">{card.name}</b>
            {card.wants && <span className="text-ink-2"> wants {card.wants}</span>}
          </li>
        ))}
      </ul>
    </details>
  );
}

function Cards({ state }: { state: DrillsState }) {
  const known = state.cards.filter((card) => card.due);
  return (
    <table className="w-full text-[13px]">
      <caption className="pb-1 text-left text-[13px] font-bold">
        What was asked for: {known.length} of {state.cards.length} cards
      </caption>
      <thead>
        <tr className="text-left text-ink-2">
          <th className="py-1 pr-3 font-medium">Card</th>
          <th className="py-1 pr-3 font-medium">Right</th>
          <th className="py-1 font-medium">Comes again</th>
        </tr>
      </thead>
      <tbody>
        {known
          .sort((a, b) => a.due.localeCompare(b.due))
          .map((card) => (
            <tr key={card.id} className="border-t border-line">
              <th scope="row" className="py-1 pr-3 text-left font-semibold">
                {card.name}
              </th>
              <td className="py-1 pr-3">{card.score ? `${card.score.right} of ${card.score.of}` : "–"}</td>
              <td className="py-1">{card.is_due ? "due" : dayOf(card.due)}</td>
            </tr>
          ))}
      </tbody>
    </table>
  );
}

/** How it went: sitting by sitting, card by card; out as CSV, or forgotten. */
export function Score({ state }: { state: DrillsState }) {
  const [asking, setAsking] = useState(false);
  const reset = useReset();
  if (!state.answered)
    return (
      <Empty title="No answers yet">
        <p>After the first sitting: what was right by kind, how quick, and when each card comes again.</p>
      </Empty>
    );
  const last = state.sittings.at(-1)!;
  const right = state.sittings.reduce((sum, each) => sum + each.score.right, 0);
  const said = `${right} of ${state.answered} right in ${state.sittings.length} sitting${state.sittings.length === 1 ? "" : "s"}; the last: ${last.score.right} of ${last.score.of}.`;
  return (
    <div className="flex min-h-0 flex-col gap-4 p-5 pt-3">
      <div className="h-[230px] shrink-0">
        <ChartFrame
          title={<b>Right, sitting by sitting</b>}
          label="Right, sitting by sitting"
          sentence={said}
          table={{
            head: ["Sitting", "Right", "Of", "From, %", "To, %", "Median time, s"],
            rows: state.sittings.map((each) => [
              dayOf(each.at),
              each.score.right,
              each.score.of,
              Math.round(100 * each.score.low),
              Math.round(100 * each.score.high),
              each.seconds === null ? null : Math.round(each.seconds),
            ]),
          }}
        >
          <Course
            name="Right"
            points={state.sittings.map((each) => ({
              at: dayOf(each.at),
              value: 100 * each.score.part,
              low: 100 * each.score.low,
              high: 100 * each.score.high,
              words: `${each.score.right} of ${each.score.of}, ${percent(each.score.low)} to ${percent(each.score.high)}`,
            }))}
            top={100}
            unit="%"
          />
        </ChartFrame>
      </div>
      <div className="h-[200px] shrink-0">
        <ChartFrame
          title={<b>Time to an answer</b>}
          label="Time to an answer"
          sentence={last.seconds === null ? "" : `${time(last.seconds)} in the middle of the last sitting.`}
          table={{
            head: ["Sitting", "Median time, s"],
            rows: state.sittings.map((each) => [
              dayOf(each.at),
              each.seconds === null ? null : Math.round(each.seconds),
            ]),
          }}
        >
          <Course
            name="Time to an answer"
            points={state.sittings
              .filter((each) => each.seconds !== null)
              .map((each) => ({ at: dayOf(each.at), value: each.seconds!, words: time(each.seconds!) }))}
            top={Math.max(10, ...state.sittings.map((each) => each.seconds ?? 0))}
            unit="s"
          />
        </ChartFrame>
      </div>
      <div className="flex flex-col gap-3 px-5">
        <Cards state={state} />
        <NotYet state={state} />
      </div>
      {reset.error && <Failed error={reset.error} />}
      <div className="flex gap-2 px-5">
        <a
          href="/api/drills/answers.csv"
          download
          className="inline-flex items-center rounded-[7px] border-[1.5px] border-ink bg-sheet px-2.5 py-1 text-[13px] font-semibold hover:bg-faint"
        >
          Answers as CSV
        </a>
        <Button look="danger" onClick={() => setAsking(true)}>
          Forget all answers
        </Button>
      </div>
      <Confirm
        open={asking}
        title="Forget all answers?"
        yes="Forget them"
        onClose={() => setAsking(false)}
        onYes={() => reset.mutate()}
      >
        All {state.answered} answers, the score and the dates of all cards go. It cannot be undone; “Answers
        as CSV” keeps a copy.
      </Confirm>
    </div>
  );
}
