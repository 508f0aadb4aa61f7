import { useState } from "react";
import type { Change } from "../../api/client";
import { Button } from "../../parts/controls";
import { VerdictMark } from "../../parts/Mark";
import { about, short, signed, watts } from "../../parts/table";
import { Outcome } from "../bench/Outcome";
import { HearStep } from "./HearStep";
import { Marks } from "./Marks";
import { dba, wished, type Loudness, type Plan, type Step } from "./useLoudness";

interface Props {
  loudness: Loudness;
  wanted: number;
  chosen?: Step;
  busy: boolean;
  /** The wish differs from the one kept with the hook-up. */
  unsaved: boolean;
  onKeep: () => void;
  onPut: (changes: Change[]) => void;
}

function Put({ step, busy, onPut }: { step: Step; busy: boolean; onPut: Props["onPut"] }) {
  const [near, setNear] = useState(false);
  if (step.is_now) return <p className="mt-1 text-[12.5px] font-semibold">As it stands now.</p>;
  return (
    <div onMouseEnter={() => setNear(true)} onFocus={() => setNear(true)}>
      <Button className="mt-1" disabled={busy} onClick={() => onPut(step.changes as Change[])}>
        Put it on the Bench
      </Button>
      {near && <Outcome changes={step.changes as Change[]} className="mt-1" />}
    </div>
  );
}

/** The other places a level is known for, and what it comes to there. */
function elsewhere(plan: Plan, step: Step, at: number): string {
  const told = plan.places
    .flatMap((p, i) =>
      i !== at && step.levels[i] != null ? [`${p.name} ${Math.round(step.levels[i])}`] : [],
    )
    .join(", ");
  return told ? `elsewhere: ${told} dBA` : "not told of any other place";
}

/** What the wish comes to in dB, watts and time, and the nearest thing that is owned. */
export function Setting({ loudness, wanted, chosen, busy, unsaved, onKeep, onPut }: Props) {
  const { plan } = loudness;
  const at = plan.places.findIndex((p) => p.place === plan.place);
  const here = plan.places[at];
  const need = plan.need_db;
  return (
    <div className="min-h-0 flex-1 overflow-y-auto pb-3">
      <div className="border-b border-line px-4 py-2.5">
        {plan.why || (need == null && !plan.beyond) ? (
          <p className="text-ink-2">{plan.headline}</p>
        ) : (
          <>
            <p className={`text-[15px] leading-snug font-semibold ${plan.beyond && "text-caution"}`}>
              {plan.headline}
            </p>
            <dl className="mt-1.5 grid grid-cols-2 gap-x-3 gap-y-1 text-[13px]">
              <dt className="text-ink-2">Played</dt>
              <dd>{plan.played}</dd>
              {plan.watts_wanted != null && (
                <>
                  <dt className="text-ink-2">Into {plan.cabinet}</dt>
                  <dd>{watts(plan.watts_wanted)}</dd>
                </>
              )}
              <dt className="text-ink-2">Nothing between</dt>
              <dd>
                {watts(plan.full_watts)}, {dba(plan.full[at] ?? 0)}
              </dd>
              {plan.rest[at] != null && (
                <>
                  <dt className="text-ink-2">All else there</dt>
                  <dd>{dba(plan.rest[at])}</dd>
                </>
              )}
              {here && (
                <>
                  <dt className="text-ink-2">Prediction</dt>
                  <dd>
                    {about(here.spread)}, {here.at_most && "the most it can be, "}
                    {here.readings
                      ? `${here.readings} reading${here.readings === 1 ? "" : "s"}`
                      : "an estimate"}
                  </dd>
                </>
              )}
              {plan.allowed != null && (
                <>
                  <dt className="text-ink-2">One may listen</dt>
                  <dd>
                    {plan.allowed_words} at {wished(wanted)}
                  </dd>
                </>
              )}
            </dl>
          </>
        )}
        {unsaved && (
          <Button className="mt-2" disabled={busy} onClick={onKeep}>
            Keep this wish with the hook-up
          </Button>
        )}
      </div>
      {chosen && (
        <section aria-label="Chosen step" className="border-b border-line bg-shoal px-4 py-2.5">
          <p className="font-semibold">
            {chosen.name} {chosen.position}
          </p>
          <p className="text-[13px] text-ink-2">
            {chosen.levels[at] != null && `${dba(chosen.levels[at])} at ${here?.name}, `}
            {short(chosen.down_db)} dB down{chosen.doubt_db ? ` ± ${short(chosen.doubt_db)}` : ""},{" "}
            {watts(chosen.watts)}
          </p>
          <Put step={chosen} busy={busy} onPut={onPut} />
        </section>
      )}
      {!plan.why && <h2 className="px-4 pt-3 pb-1 text-[13px] font-bold">Nearest of what you own</h2>}
      {plan.coarse && plan.nearest.length > 0 && (
        <p className="px-4 pb-1 text-[13px] font-semibold text-caution">
          Nothing owned comes within {short(plan.near_db)} dB of it.
        </p>
      )}
      <ol aria-label="Nearest settings">
        {plan.nearest.map(({ step, off_db, near, words, verdict, severity, replug = [] }) => (
          <li key={step.unit} className="grid grid-cols-[20px_1fr] gap-2 border-t border-line px-4 py-2">
            <VerdictMark severity={severity} size={18} />
            <div className="min-w-0">
              <p className="font-semibold">
                {step.name} {step.position}
              </p>
              <p className="text-[13px]">
                {dba(step.levels[at] ?? 0)},{" "}
                <span className={near ? "" : "font-semibold text-caution"}>
                  {signed(off_db)} dB off the wish
                </span>
                ; {watts(step.watts)}
              </p>
              <p className="text-[12.5px] text-ink-2">
                {words}; {verdict.toLowerCase()}
                {step.doubt_db > 0 && `; its position is known to ± ${short(step.doubt_db)} dB`}
              </p>
              <p className="text-[12.5px] text-ink-2">{elsewhere(plan, step, at)}</p>
              <p className="text-[12.5px] text-ink-2">
                {step.is_now ? "" : replug.length ? `Re-plug: ${replug.join("; ")}.` : "Nothing to re-plug."}
              </p>
              <Put step={step} busy={busy} onPut={onPut} />
            </div>
          </li>
        ))}
        {plan.nearest.length === 0 && !plan.why && (
          <li className="px-4 py-1 text-[13px] text-ink-2">
            Nothing in the locker turns this hook-up down between amp and speaker.
          </li>
        )}
      </ol>
      {plan.left_out!.length > 0 && (
        <p className="border-t border-line px-4 py-2 text-[12.5px]">
          Left out, since nobody knows what they take: {plan.left_out!.join("; ")}. <i>Knobs</i> finds it out.
        </p>
      )}
      {!plan.why && <HearStep loudness={loudness} chosen={chosen} />}
      <Marks plan={plan} />
    </div>
  );
}
