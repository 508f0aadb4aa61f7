import { Undo2 } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { Button, Key } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { Mark } from "../../parts/Mark";
import { ForAll } from "../../parts/sharing/ForAll";
import { Failed, Loading } from "../../parts/states";
import { Remedy } from "./Remedy";
import { useFault, type Fault, type FaultSearch } from "./useFault";

type Test = NonNullable<Fault["now"]["test"]>;
type Suspicion = Fault["now"]["left"][number];

/** Causes with less than this are kept in the count, and folded away. */
const LEAST_SHARE = 0.01;

const SAID = { yes: "yes", no: "no", unknown: "cannot tell" } as Record<string, string>;
const EFFORT = {
  look: "a look",
  turn: "a turn",
  listen: "listening",
  swap: "another lead or unit: off first",
  measure: "a measurement: off first",
  re_plug: "plugs: off first",
} as Record<string, string>;

function Question({ test, search }: { test: Test; search: FaultSearch }) {
  const say = (said: "yes" | "no" | "unknown") => search.answer.mutate({ test: test.id, said });
  return (
    <div>
      <p className="text-[16px] text-ink-2">Next, {EFFORT[test.way]}</p>
      <h3 className="mt-1 max-w-[30ch] text-[clamp(26px,3.2vw,44px)] leading-[1.15] font-bold">
        {test.asks}
      </h3>
      {test.steps.length > 0 && (
        <ol className="mt-3 list-decimal pl-6 text-[19px] leading-snug">
          {test.steps.map((each) => (
            <li key={each}>{each}</li>
          ))}
        </ol>
      )}
      <p className="mt-5 flex flex-wrap gap-2.5">
        {(["yes", "no", "unknown"] as const).map((said, i) => (
          <Button
            key={said}
            look={said === "unknown" ? "plain" : "main"}
            className="!min-h-[52px] !px-7 !text-[20px]"
            onClick={() => say(said)}
          >
            {["Yes", "No", "Cannot tell"][i]}
          </Button>
        ))}
        <span className="hidden items-center gap-1.5 text-ink-2 sm:flex">
          <Key>y</Key> <Key>n</Key> <Key>c</Key>
        </span>
      </p>
      <p className="mt-3 max-w-[60ch] text-[15px] text-ink-2">{test.why}</p>
    </div>
  );
}

function Left({ suspicion, first, onMend }: { suspicion: Suspicion; first: boolean; onMend: () => void }) {
  const percent = Math.round(100 * suspicion.share);
  return (
    <li className="border-t border-line py-2 first:border-t-0">
      <div className="flex items-baseline gap-2">
        <span className={`w-[52px] shrink-0 text-right tabular-nums ${first ? "text-[19px] font-bold" : ""}`}>
          {percent < 1 ? "under 1" : percent} %
        </span>
        <span className={`min-w-0 flex-1 ${first ? "text-[17px] font-bold" : ""}`}>{suspicion.name}</span>
        <Button className="shrink-0" onClick={onMend}>
          Mend it …
        </Button>
      </div>
      <div aria-hidden className="mt-1 ml-[60px] h-[5px] rounded bg-faint">
        <div className="h-full rounded bg-water" style={{ width: `${Math.max(1, percent)}%` }} />
      </div>
      {suspicion.why && <p className="mt-0.5 ml-[60px] text-[13px] text-ink-2">{suspicion.why}</p>}
    </li>
  );
}

/** Danger and wrong hook-ups are no puzzles: what to do, alone on the screen. */
function AtOnce({ state, search }: { state: Fault; search: FaultSearch }) {
  const { danger, steps, measure, suspects } = state.now;
  return (
    <div className="h-full overflow-y-auto bg-sheet">
      <div className="mx-auto max-w-[980px] px-5 py-6">
        <p className="flex items-center gap-3 text-[clamp(26px,3.4vw,44px)] font-bold text-stop">
          <Mark severity="stop" size={44} /> {danger ? "Off at the mains. Now." : "Off, and leave it off."}
        </p>
        <ol className="mt-4 list-decimal pl-7 text-[clamp(19px,2vw,26px)] leading-snug">
          {steps.map((each) => (
            <li key={each} className="mb-2">
              {each}
            </li>
          ))}
        </ol>
        {measure.length > 0 && (
          <section aria-label="To measure" className="mt-4">
            <h3 className="text-[17px] font-bold">With the amp off and everything unplugged, measure</h3>
            <ul className="mt-1 text-[17px]">
              {measure.map((each) => (
                <li key={each} className="border-t border-line py-1.5 first:border-t-0">
                  {each}
                </li>
              ))}
            </ul>
          </section>
        )}
        <p className="mt-5 flex flex-wrap items-center gap-3">
          {!state.ended && (
            <Button look="main" className="!py-2.5 !text-[17px]" onClick={() => search.giveUp.mutate()}>
              It is off
            </Button>
          )}
          {!state.ended && (
            <Button look="quiet" className="!py-2.5" onClick={() => search.mistake.mutate()}>
              Pressed by mistake
            </Button>
          )}
          {suspects.length > 0 && (
            <ForAll>
              <Link to="/locker" className="inline-flex min-h-[24px] items-center text-deep underline">
                Suspect units in the Locker
              </Link>
            </ForAll>
          )}
          <Link
            to={`/run/${state.hookup}`}
            className="inline-flex min-h-[24px] items-center text-deep underline"
          >
            back to the run sheet
          </Link>
        </p>
      </div>
    </div>
  );
}

/** A search: one test at a time in large type, what is left beside it. */
export function Searching({ id, hookup }: { id: number; hookup: string }) {
  const search = useFault(id, hookup);
  const [mending, setMending] = useState<string>();
  const { state, query } = search;
  const test = state && !state.ended ? state.now.test : null;
  const say = (said: "yes" | "no" | "unknown") => () => test && search.answer.mutate({ test: test.id, said });
  const back = () => state?.answered.length && !state.ended && search.back.mutate();
  useKeys({ y: say("yes"), n: say("no"), c: say("unknown"), u: back });
  if (query.error && !state) return <Failed error={query.error} retry={() => void query.refetch()} />;
  if (!state) return <Loading what="the search" />;
  if (state.now.steps.length > 0) return <AtOnce state={state} search={search} />;
  const refusal = [search.answer, search.back, search.mended, search.giveUp].find(
    (each) => each.error,
  )?.error;
  const { left, mend } = state.now;
  const likely = left.filter((each, i) => i < 2 || each.share >= LEAST_SHARE);
  const mended = left.find((each) => each.id === mending);
  return (
    <div className="flex h-full flex-col overflow-y-auto lg:overflow-hidden">
      <div className="flex flex-wrap items-baseline gap-3 border-b border-line px-5 py-2">
        <h2 className="mr-auto text-[19px] font-bold">{state.symptom_name}</h2>
        <span className="text-ink-2">{state.hookup_name}</span>
        <Link
          to={`/run/${hookup}/wrong`}
          className="inline-flex min-h-[24px] items-center text-deep underline"
        >
          another symptom
        </Link>
        <Link to={`/run/${hookup}`} className="inline-flex min-h-[24px] items-center text-deep underline">
          back to the run sheet
        </Link>
      </div>
      {refusal && <Failed error={refusal} />}
      {state.now.caution && !state.ended && (
        <p className="flex items-center gap-2 border-b border-caution bg-sheet px-5 py-2 text-[16px] font-semibold">
          <Mark severity="caution" size={22} /> {state.now.caution}
        </p>
      )}
      <div className="flex flex-col lg:min-h-0 lg:flex-1 lg:flex-row">
        <section
          aria-label="What to do now"
          className="bg-sheet px-6 py-5 lg:min-h-0 lg:flex-1 lg:overflow-y-auto lg:px-9"
        >
          {state.ended ? (
            <div>
              <p className="text-[clamp(26px,3.2vw,44px)] leading-tight font-bold">
                {state.found || "Not found."}
              </p>
              <p className="mt-2 text-[17px] text-ink-2">
                {state.found
                  ? "It is in the log, and counts the next time this is heard."
                  : "The log says so. Somebody else’s ears, or a technician, may find it."}
              </p>
            </div>
          ) : mended ? (
            <Remedy
              suspicion={mended}
              hookup={hookup}
              onGone={(gone) => {
                setMending(undefined);
                search.mended.mutate({ cause: mended.id, gone });
              }}
              onClose={() => setMending(undefined)}
            />
          ) : mend && left[0] ? (
            <div>
              <p className="text-[16px] text-ink-2">Most likely, {Math.round(100 * left[0].share)} %</p>
              <h3 className="mt-1 max-w-[30ch] text-[clamp(26px,3.2vw,44px)] leading-[1.15] font-bold">
                {left[0].name}
              </h3>
              <p className="mt-5 flex flex-wrap gap-2.5">
                <Button
                  look="main"
                  className="!min-h-[52px] !px-7 !text-[20px]"
                  onClick={() => setMending(left[0]!.id)}
                >
                  Mend it …
                </Button>
              </p>
              {test && (
                <div className="mt-7 border-t border-line pt-4">
                  <Question test={test} search={search} />
                </div>
              )}
            </div>
          ) : test ? (
            <Question test={test} search={search} />
          ) : (
            <p className="text-[19px]">
              Nothing more can be told apart from here. Begin again with another symptom, or let somebody else
              listen.
            </p>
          )}
          {state.now.others.length > 0 && !state.ended && !mended && (
            <details className="mt-6">
              <summary className="cursor-pointer text-ink-2">Another test instead</summary>
              <ul className="mt-1">
                {state.now.others.map((each) => (
                  <li key={each.id} className="flex flex-wrap items-center gap-2 border-t border-line py-1.5">
                    <span className="min-w-0 flex-1">
                      {each.asks} <span className="text-ink-2">({EFFORT[each.way]})</span>
                    </span>
                    {(["yes", "no"] as const).map((said) => (
                      <Button key={said} onClick={() => search.answer.mutate({ test: each.id, said })}>
                        {said === "yes" ? "Yes" : "No"}
                      </Button>
                    ))}
                  </li>
                ))}
              </ul>
            </details>
          )}
        </section>
        <section
          aria-label="What is left"
          className="border-line px-5 py-4 max-lg:border-t lg:w-[430px] lg:shrink-0 lg:overflow-y-auto lg:border-l"
        >
          {!state.ended && (
            <>
              <h3 className="text-[15px] font-bold">What is left</h3>
              <ol>
                {likely.map((each, i) => (
                  <Left key={each.id} suspicion={each} first={i === 0} onMend={() => setMending(each.id)} />
                ))}
              </ol>
              {likely.length < left.length && (
                <details className="mt-1">
                  <summary className="cursor-pointer text-[13px] text-ink-2">
                    {left.length - likely.length} more, each under 1 %
                  </summary>
                  <ol>
                    {left.slice(likely.length).map((each) => (
                      <Left key={each.id} suspicion={each} first={false} onMend={() => setMending(each.id)} />
                    ))}
                  </ol>
                </details>
              )}
            </>
          )}
          {state.set_aside.length > 0 && (
            <p className="mt-3 text-[13px] text-ink-2">
              Mended, and it was not that: {state.set_aside.join("; ")}. There may be two at once.
            </p>
          )}
          {state.answered.length > 0 && (
            <div className="mt-4">
              <h3 className="flex items-center text-[15px] font-bold">
                Answered
                {!state.ended && (
                  <Button look="quiet" className="ml-auto" onClick={back}>
                    <Undo2 size={15} /> Take the last back
                  </Button>
                )}
              </h3>
              <ol className="text-[13.5px]">
                {state.answered.map((each) => (
                  <li key={each.id} className="flex gap-2 border-t border-line py-1 first:border-t-0">
                    <span className="min-w-0 flex-1">{each.asks}</span>
                    <b>{SAID[each.said]}</b>
                  </li>
                ))}
              </ol>
            </div>
          )}
          {!state.ended && (
            <Button look="quiet" className="mt-4" onClick={() => search.giveUp.mutate()}>
              Stop searching: not found
            </Button>
          )}
        </section>
      </div>
    </div>
  );
}
