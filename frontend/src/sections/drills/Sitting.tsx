import { useNavigate } from "react-router";
import { useState } from "react";
import { Confirm } from "../../parts/Confirm";
import { Button, Key } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { Failed, Loading } from "../../parts/states";
import { Over } from "./Over";
import { Question } from "./Question";
import { Right } from "./Right";
import { Told } from "./Told";
import { useAnswering, useQuestion, useSitDown, useSitting, type Sitting as State } from "./useDrills";

/** How far a sitting is: a mark for each question answered, the open one, and those to come. */
function Progress({ sitting }: { sitting: State }) {
  const marks = sitting.done.filter((each) => !each.once_more);
  const left = sitting.of - marks.length;
  return (
    <ol className="flex items-center gap-1" aria-label={`${marks.length} of ${sitting.of} answered`}>
      {marks.map((each) => (
        <li key={each.id} title={each.name}>
          <Right right={each.is_right} size={15} />
        </li>
      ))}
      {Array.from({ length: Math.max(0, left) }, (_, n) => (
        <li key={`left ${n}`} aria-hidden className="size-[15px] p-[4px]">
          <span
            className={`block size-full rounded-full ${n === 0 && sitting.is_open ? "bg-deep" : "bg-line"}`}
          />
        </li>
      ))}
    </ol>
  );
}

/** One sitting: a question after the other, each told about once it is answered. */
export function Sitting({ id }: { id: number }) {
  const go = useNavigate();
  const sitting = useSitting(id);
  const at = sitting.data?.at;
  const question = useQuestion(at);
  const asked = question.data;
  const { hint, give } = useAnswering(asked);
  const { next, end, onceMore } = useSitDown();
  const [leaving, setLeaving] = useState(false);
  const result = asked?.result;
  const ended = Boolean(sitting.data?.ended);
  const isLast = (sitting.data?.asked ?? 0) >= (sitting.data?.of ?? 0);
  const isBusy = give.isPending || next.isPending || onceMore.isPending || end.isPending;
  const onNext = () => {
    if (!result || isBusy) return;
    if (ended) void go("/drills");
    else next.mutate(id, { onSuccess: (now) => now.ended && void go("/drills") });
  };
  const onAgain = () => result && !isBusy && !ended && asked && onceMore.mutate(asked.id);
  useKeys({ n: onNext, m: onAgain, h: () => asked && !result && hint.mutate() });
  if (sitting.error) return <Failed error={sitting.error} retry={() => void go("/drills")} />;
  if (ended && (question.error || typeof at !== "number")) return <Over sitting={sitting.data!} />;
  if (question.error) return <Failed error={question.error} retry={() => void go("/drills")} />;
  if (!sitting.data || !asked) return <Loading what="the question" />;
  const error = give.error ?? next.error ?? onceMore.error ?? hint.error ?? end.error;
  return (
    <div className="flex h-full min-h-0 flex-col overflow-y-auto lg:overflow-hidden">
      <div className="flex shrink-0 flex-wrap items-center gap-x-4 gap-y-1 border-b border-line px-5 py-2">
        <Progress sitting={sitting.data} />
        <span className="text-[13px] text-ink-2">
          {asked.n ? `${asked.n} of ${sitting.data.of}` : "once more"} · {asked.kind_name}
        </span>
        <span className="ml-auto flex gap-1">
          {!result && !asked.hint && (
            <Button look="quiet" onClick={() => hint.mutate()}>
              Hint <Key>h</Key>
            </Button>
          )}
          {!ended && (
            <Button
              look="quiet"
              onClick={() =>
                result ? end.mutate(id, { onSuccess: () => void go("/drills") }) : setLeaving(true)
              }
            >
              End the sitting
            </Button>
          )}
        </span>
      </div>
      <div className="shrink-0 px-5 pt-3 pb-2">
        <h2 className="text-[22px] leading-tight font-bold">{asked.ask}</h2>
        {asked.about && <p className="text-[15px]">{asked.about}</p>}
        {asked.occasion && <p className="text-ink-2">{asked.occasion}</p>}
        {asked.hint && (
          <p className="mt-1 border-l-[3px] border-line pl-2">
            <span className="text-ink-2">Hint:</span> {asked.hint}
          </p>
        )}
        {asked.since.map((each) => (
          <p key={each} className="mt-1 text-[13px] text-caution">
            {each}
          </p>
        ))}
      </div>
      {error && <Failed error={error} />}
      <div key={asked.id} className="flex flex-col lg:min-h-0 lg:flex-1 lg:overflow-y-auto">
        <Question
          asked={asked}
          isBusy={isBusy}
          onAnswer={(given) => !give.isPending && give.mutate(given)}
          told={
            result && (
              <Told
                asked={asked}
                result={result}
                isLast={isLast}
                isBusy={isBusy}
                hasEnded={ended}
                onNext={onNext}
                onAgain={() => void onAgain()}
              />
            )
          }
        />
      </div>
      <Confirm
        open={leaving}
        title="End this sitting?"
        yes="End it"
        no="Go on"
        onClose={() => setLeaving(false)}
        onYes={() => end.mutate(id, { onSuccess: () => void go("/drills") })}
      >
        The answers given count. The question that is open does not.
      </Confirm>
    </div>
  );
}
