import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { answer, api } from "../../api/client";
import { Button, Key } from "../../parts/controls";
import { Mark, VerdictMark } from "../../parts/Mark";
import { Failed } from "../../parts/states";
import { asNumberIfAny } from "../../parts/typed";
import { countWords, lengthWords } from "./clock";
import { PinForm } from "./PinForm";
import { blockKey, type BlockState, type DayState, type LeftOut, type Plan, type PlanEdits } from "./usePlan";

const PANEL = "border-b border-line px-4 py-3";
const HEAD = "mb-1 text-[14px] font-bold";

const DOING = {
  find: "finding the sound",
  play: "playing",
  rest: "rest, the boxes cool",
  choose: "choosing",
};

/** It is done, and how long that took: other parts of its role are reckoned by it. */
function Took({ block, onDone }: { block: BlockState; onDone: (took: number | null) => void }) {
  const [took, setTook] = useState("");
  return (
    <form
      aria-label="It is done"
      className="mt-2 flex flex-wrap items-center gap-2 text-[13px]"
      onSubmit={(event) => {
        event.preventDefault();
        onDone(asNumberIfAny(took));
      }}
    >
      <Button type="submit">It is done</Button>
      <label className="flex items-center gap-1.5">
        it took
        <input
          inputMode="numeric"
          placeholder={String(block.minutes)}
          value={took}
          onChange={(event) => setTook(event.target.value)}
          className="w-[58px] rounded-md border border-line bg-sheet px-1.5 py-1 text-center"
        />
        min
      </label>
    </form>
  );
}

/** One block: where it lies, how loud it is, what holds it there. */
export function OneBlock({
  plan,
  day,
  block,
  onPin,
  onUnpin,
  onDone,
  onClose,
}: {
  plan: Plan;
  day: DayState;
  block: BlockState;
  onPin: (date: string, start: string) => void;
  onUnpin: () => void;
  onDone: (done: boolean, took: number | null) => void;
  onClose: () => void;
}) {
  const run = block.hookup && `/run/${block.hookup}`;
  return (
    <>
      <section aria-label="The block" className={PANEL}>
        <div className="flex items-baseline justify-between gap-2">
          <h2 className="text-[15px] font-bold">
            {block.song}, {block.name}
            {block.choosing && ": choose the sound"}
          </h2>
          <Button look="quiet" className="!py-0" onClick={onClose}>
            Close <Key>Esc</Key>
          </Button>
        </div>
        <p className="text-ink-2">
          {day.name}, {block.at}, {lengthWords(block.minutes)}
        </p>
        {block.stretches.length > 1 && (
          <p className="text-[13px] text-ink-2">
            {block.stretches
              .map(({ doing, slots }) => `${DOING[doing]} ${lengthWords(slots * 5)}`)
              .join(", then ")}
          </p>
        )}
        {block.through && (
          <p className="mt-2">
            Through {block.through}
            {block.scene && `, scene “${block.scene}”`}.
          </p>
        )}
        {block.heard.length > 0 && (
          <ul className="mt-1 text-[13px] text-ink-2">
            {block.heard.map((said) => (
              <li key={said}>{said}</li>
            ))}
            {block.heard.some((said) => said.includes("dBA")) && <li>at the edge of what is sure</li>}
          </ul>
        )}
        {block.verdict && (
          <p className="mt-2 flex items-center gap-2 font-semibold">
            <VerdictMark severity={block.verdict.severity} size={17} /> {block.verdict.words} at that hour
          </p>
        )}
        {block.wrong.map((said) => (
          <p key={said} role="alert" className="mt-2 flex gap-2 text-[13px]">
            <Mark severity="stop" size={16} /> <span>{said}</span>
          </p>
        ))}
        {block.notes.map(({ words, check }) => (
          <p key={words} className="mt-2 flex gap-2 text-[13px]">
            <Mark severity={check ? "caution" : "note"} size={16} />
            <span>
              {words}
              {check && " Check first."}
            </span>
          </p>
        ))}
        <div className="mt-3 flex flex-wrap gap-2">
          {run && (
            <>
              <Link
                to={run}
                className="rounded-[7px] border-[1.5px] border-ink bg-ink px-2.5 py-1 text-[13px] font-semibold text-paper"
              >
                Open its run sheet
              </Link>
              <Link to={`/bench/${block.hookup}`} className="rounded px-1.5 py-1 text-[13px] underline">
                Bench
              </Link>
              <Link to={`${run}/kit`} className="rounded px-1.5 py-1 text-[13px] underline">
                Kit list
              </Link>
            </>
          )}
          {block.done && <Button onClick={() => onDone(false, null)}>Not done after all</Button>}
        </div>
        {block.choosing
          ? !block.done && (
              <Button className="mt-2" onClick={() => onDone(true, null)}>
                It is chosen
              </Button>
            )
          : !block.done && <Took block={block} onDone={(took) => onDone(true, took)} />}
      </section>
      {!block.done && (
        <section aria-label="What holds it here" className={PANEL}>
          <h3 className={HEAD}>What holds it here</h3>
          <ul className="grid gap-1 text-[13px]">
            {block.why.map((said) => (
              <li key={said}>{said}</li>
            ))}
          </ul>
          <PinForm
            key={`${blockKey(block)} ${day.date} ${block.start}`}
            plan={plan}
            day={day}
            block={block}
            onPin={onPin}
            onUnpin={onUnpin}
          />
        </section>
      )}
    </>
  );
}

/** Why a part is not laid, and what would make room for it. */
export function WhyLeftOut({
  plan,
  left,
  edits,
  onClose,
}: {
  plan: Plan;
  left: LeftOut;
  edits: PlanEdits;
  onClose: () => void;
}) {
  const query = useQuery({
    queryKey: ["plan", plan.id, "asked", blockKey(left), plan.saves],
    queryFn: () =>
      answer(
        api.POST("/api/plans/{plan_id}/asked", {
          params: { path: { plan_id: plan.id } },
          body: { part: left.part, choosing: left.choosing },
        }),
      ),
  });
  const found = query.data;
  return (
    <section aria-label="Why it does not fit" className={PANEL}>
      <div className="flex items-start gap-2">
        <Mark severity="caution" size={18} />
        <h2 className="min-w-0 flex-1 text-[15px] font-bold">{left.name} does not fit.</h2>
        <Button look="quiet" className="!py-0" onClick={onClose}>
          Close <Key>Esc</Key>
        </Button>
      </div>
      {query.isPending && (
        <p role="status" className="mt-2 text-ink-2">
          Looking for what is in the way …
        </p>
      )}
      {query.error && <Failed error={query.error} retry={() => void query.refetch()} />}
      {found && (
        <>
          <p className="mt-2 text-[13px] text-ink-2">
            {found.words.length > 1
              ? `These together leave no room for it${found.alone ? ", even by itself" : ""}; without any one of them there would be:`
              : found.alone
                ? "There would be no room for it even by itself:"
                : "Beside what is laid:"}
          </p>
          <ul className="mt-1 grid gap-1 text-[13px]">
            {found.words.map((said) => (
              <li key={said}>{said}</li>
            ))}
          </ul>
          {!found.sure && (
            <p className="mt-1 text-[12.5px] text-ink-2">
              Not proven in the time there was: some of it may be spared.
            </p>
          )}
          <h3 className={`${HEAD} mt-3`}>What would make room</h3>
          {found.ways.length === 0 && (
            <p className="text-[13px] text-ink-2">
              No single thing of those that were tried: another hook-up, two hours more on a day, one part
              less. Add a day, or make it shorter.
            </p>
          )}
          <ul className="grid gap-1.5">
            {found.ways.map((way, i) => (
              <li key={way.words} className="flex flex-wrap items-center gap-x-2">
                <Button
                  disabled={edits.free.isPending}
                  onClick={() =>
                    edits.free.mutate({ part: left.part, choosing: left.choosing, words: way.words })
                  }
                >
                  {way.words} <Key>{i + 1}</Key>
                </Button>
                <span className="text-[12.5px] text-ink-2">then {way.where}</span>
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}

/** What of a plan is to be looked at: parts that do not fit, what has changed, what is late. */
export function Summary({ plan, onLeft }: { plan: Plan; onLeft: (left: LeftOut) => void }) {
  const laid = plan.days.some((day) => day.blocks.length > 0);
  const wrong = plan.days.flatMap((day) =>
    day.blocks.filter((b) => b.wrong.length > 0).map((b) => ({ day, b })),
  );
  return (
    <>
      {plan.stale && (
        <section className={`${PANEL} flex gap-2`}>
          <Mark severity={wrong.length ? "stop" : "note"} size={18} />
          <div>
            <p className="font-semibold">{plan.stale}</p>
            {wrong.map(({ day, b }) => (
              <p key={blockKey(b)} className="mt-1 text-[13px]">
                {b.song}, {b.name} ({day.name}, {b.at}): {b.wrong[0]}
              </p>
            ))}
          </div>
        </section>
      )}
      {plan.left_out.length > 0 && laid && (
        <section aria-label="Not laid" className={PANEL}>
          <h2 className={`${HEAD} flex items-center gap-2`}>
            <Mark severity={plan.left_out.some((left) => left.must) ? "stop" : "caution"} size={18} />
            {plan.left_out.length === 1
              ? "One part does not fit"
              : `${plan.left_out.length} parts do not fit`}
          </h2>
          <ul className="grid gap-1">
            {plan.left_out.map((left) => (
              <li key={blockKey(left)} className="flex items-center gap-2">
                <span className="min-w-0 flex-1">
                  {left.choosing && "choosing for "}
                  {left.name}
                  {left.must && <b> (must be in)</b>}
                </span>
                <Button onClick={() => onLeft(left)}>Why?</Button>
              </li>
            ))}
          </ul>
        </section>
      )}
      {plan.late.length > 0 && (
        <section aria-label="Behind" className={PANEL}>
          <h2 className={`${HEAD} flex items-center gap-2`}>
            <Mark severity="caution" size={18} /> {countWords(plan.late.length, "part")} behind
          </h2>
          <p className="text-[13px]">
            {plan.late.join("; ")}: to be done by now. Lay it out again from here.
          </p>
          {plan.first_to_go.length > 0 && (
            <p className="mt-1 text-[13px] text-ink-2">
              Leave out first:{" "}
              {plan.first_to_go
                .slice(0, 3)
                .map((id) => nameOf(plan, id))
                .join("; ")}
              .
            </p>
          )}
        </section>
      )}
      {laid && (
        <section aria-label="What it comes to" className={`${PANEL} flex gap-2`}>
          <Mark severity={plan.left_out.length ? "note" : "fine"} size={18} />
          <div>
            <p className="font-semibold">
              {countWords(plan.changes, "change-over")}, {countWords(plan.plugs, "plug")} moved.
            </p>
            {plan.goals.map((goal) => (
              <p key={goal.words} className="mt-0.5 text-[13px] text-ink-2">
                {goal.words[0]!.toUpperCase() + goal.words.slice(1)}.
              </p>
            ))}
            {plan.proven && (
              <p className="mt-0.5 text-[13px] text-ink-2">Proven: no plan is better in anything.</p>
            )}
          </div>
        </section>
      )}
      <section aria-label="So far" className="px-4 py-3">
        <h2 className={HEAD}>So far</h2>
        <p className="text-[13px]">
          {plan.done} of {countWords(plan.parts, "part")} done.
        </p>
        {plan.ratios.map((said) => (
          <p key={said} className="text-[13px] text-ink-2">
            {said}: the rest is reckoned so.
          </p>
        ))}
        <p className="mt-1 text-[12.5px] text-ink-2">Ears by: {plan.school}.</p>
      </section>
    </>
  );
}

export function nameOf(plan: Plan, id: string): string {
  for (const song of plan.project.songs)
    for (const part of song.parts) if (part.id === id) return `${song.name}, ${part.name}`;
  return id;
}
