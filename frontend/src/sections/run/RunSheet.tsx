import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Check, ChevronDown, Printer } from "lucide-react";
import { useEffect, useState } from "react";
import { Link, useParams } from "react-router";
import { answer, api, type RunState } from "../../api/client";
import { Button, Key, TextInput } from "../../parts/controls";
import { currentHookup } from "../../parts/current";
import { useKeys } from "../../parts/keys";
import { Mark } from "../../parts/Mark";
import { Empty, Failed, Loading } from "../../parts/states";
import { Choose } from "../bench/Choose";
import { HookupMenu } from "../bench/HookupMenu";
import { Verdict } from "../bench/Verdict";

type StepState = RunState["steps"][number];

function useRun(id: string) {
  const client = useQueryClient();
  const key = ["run", id];
  const path = { params: { path: { hookup_id: id } } };
  const query = useQuery({
    queryKey: key,
    queryFn: () => answer(api.GET("/api/hookups/{hookup_id}/run", path)),
  });
  const onSuccess = (state: RunState) => {
    // An answer that is older than what was ticked since does not take that back.
    if (client.isMutating({ mutationKey: key }) > 1) return;
    client.setQueryData(key, state);
    void client.invalidateQueries({ queryKey: ["hookup", id] });
    void client.invalidateQueries({ queryKey: ["hookups"] });
  };
  const scope = { id: `run-${id}` };
  const onError = () => void query.refetch();
  const tick = useMutation({
    scope,
    mutationKey: key,
    // Painted at once: whoever stands at the amp does not wait for it.
    onMutate: ({ step, done }) =>
      client.setQueryData<RunState>(
        key,
        (now) =>
          now && {
            ...now,
            steps: now.steps.map((each) => (each.step.id === step ? { ...each, done } : each)),
          },
      ),
    mutationFn: (body: { step: string; done: boolean }) =>
      answer(api.POST("/api/hookups/{hookup_id}/run/tick", { ...path, body })),
    onSuccess,
    onError,
  });
  const accept = useMutation({
    scope,
    mutationFn: (body: { key: string; word: string }) =>
      answer(api.POST("/api/hookups/{hookup_id}/run/accept", { ...path, body })),
    onSuccess,
    onError,
  });
  const turn = useMutation({
    scope,
    mutationFn: (on: boolean) =>
      answer(api.POST("/api/hookups/{hookup_id}/run/switch", { ...path, body: { on } })),
    onSuccess,
    onError,
  });
  return { query, state: query.data, tick, accept, turn };
}

function Caution({
  caution,
  onAccept,
}: {
  caution: RunState["cautions"][number];
  onAccept: (word: string) => void;
}) {
  const [word, setWord] = useState("");
  const { finding } = caution;
  return (
    <li className="grid grid-cols-[24px_1fr] gap-2 border-t border-line py-3 first:border-t-0">
      <Mark severity="caution" />
      <div>
        <p className="text-[16px] font-semibold">{finding.text}</p>
        <p className="text-ink-2">{finding.reason}</p>
        {caution.word ? (
          <p className="mt-1">
            Accepted: “{caution.word}”{" "}
            <button type="button" className="text-deep underline" onClick={() => onAccept("")}>
              take that back
            </button>
          </p>
        ) : (
          <form
            className="mt-1.5 flex max-w-[460px] gap-2"
            onSubmit={(event) => {
              event.preventDefault();
              onAccept(word);
            }}
          >
            <TextInput
              aria-label={`Your word on: ${finding.text}`}
              placeholder="Why this is all right, in a word"
              maxLength={200}
              value={word}
              onChange={(event) => setWord(event.target.value)}
            />
            <Button type="submit" disabled={!word.trim()}>
              Accept
            </Button>
          </form>
        )}
      </div>
    </li>
  );
}

function StepLine({
  step,
  active,
  onTick,
  onGo,
}: {
  step: StepState;
  active: boolean;
  onTick: (done: boolean) => void;
  onGo: () => void;
}) {
  return (
    <li className={`flex items-start gap-2 rounded-md px-1.5 py-1 ${active ? "bg-shoal" : ""}`}>
      <button
        type="button"
        role="checkbox"
        aria-checked={step.done}
        aria-label={`${step.step.text}: done`}
        onClick={() => onTick(!step.done)}
        className={`mt-0.5 flex size-[18px] shrink-0 items-center justify-center rounded border-[1.5px] ${step.done ? "border-ok bg-ok text-sheet" : "border-ink bg-sheet"}`}
      >
        {step.done && <Check size={13} strokeWidth={3} />}
      </button>
      <button type="button" data-step onClick={onGo} className={`text-left ${step.done ? "text-ink-2" : ""}`}>
        {step.step.text}
        <span className="hidden text-[12px] text-ink-2 print:block">{step.step.expect}</span>
      </button>
    </li>
  );
}

function Sheet({ id }: { id: string }) {
  const run = useRun(id);
  const bench = useQuery({
    queryKey: ["hookup", id],
    queryFn: () => answer(api.GET("/api/hookups/{hookup_id}", { params: { path: { hookup_id: id } } })),
  });
  const [chosen, setChosen] = useState<string>();
  const [menu, setMenu] = useState(false);
  const { state } = run;
  useEffect(() => {
    if (state) currentHookup.set(id);
  }, [id, state]);
  const steps = state?.steps ?? [];
  const gate = state && !state.is_on;
  const open = steps.find((s) => !s.done && (!gate || s.step.phase === "before"));
  const current = steps.find((s) => s.step.id === chosen) ?? open;
  const held = Boolean(gate && current && current.step.phase !== "before");
  const move = (by: number) => {
    const at = current ? steps.indexOf(current) : -1;
    setChosen(steps[Math.min(steps.length - 1, Math.max(0, at + by))]?.step.id);
  };
  const done = () => {
    if (!current || current.done || held) return;
    run.tick.mutate({ step: current.step.id, done: true });
    setChosen(undefined);
  };
  useKeys({
    j: () => move(1),
    k: () => move(-1),
    o: () => setMenu(true),
    Escape: () => setChosen(undefined),
    x: done,
    // A button that has the focus is pressed by it.
    " ": (event) =>
      event.target instanceof HTMLElement && event.target.closest("button, a, summary") ? false : done(),
  });

  if (run.query.error) return <Failed error={run.query.error} retry={() => void run.query.refetch()} />;
  if (!state) return <Loading what="the run sheet" />;
  const phases = [...new Set(steps.map((s) => s.step.phase))];
  const refusal = run.tick.error ?? run.accept.error ?? run.turn.error;
  return (
    <div className="flex h-full flex-col overflow-y-auto md:overflow-hidden print:overflow-visible">
      <Verdict verdict={state.verdict} facts={bench.data?.analysis.facts ?? []} />
      {refusal && <Failed error={refusal} />}
      <div className="flex flex-col md:min-h-0 md:flex-1 md:flex-row">
        <section
          aria-label="The step at hand"
          className="no-print order-1 bg-sheet md:min-h-0 md:flex-1 md:overflow-y-auto px-6 py-5 md:order-2 md:px-10"
        >
          {state.is_on && (
            <p role="status" className="mb-4 rounded-lg bg-shoal px-3 py-2 font-semibold">
              Switched on
              {state.since &&
                ` since ${new Date(state.since).toLocaleTimeString("en-GB", { timeStyle: "short" })}`}
              . Speaker leads, taps and selectors stay as they are; standby counts as on.
            </p>
          )}
          {steps.length === 0 && <Empty title="Nothing to switch on">There is no amp in this hook-up.</Empty>}
          {current && (
            <div>
              <p className="text-ink-2">{current.phase_name}</p>
              <h2 className="mt-1 max-w-[24ch] text-[34px] leading-[1.15] font-bold sm:max-w-none">
                {current.step.text}
              </h2>
              <p role="status" className="sr-only">
                {current.done ? "Done" : "Next"}: {current.step.text}
              </p>
              {current.step.expect && (
                <p className="mt-4 text-[21px] text-deep">
                  <span className="block text-[13px] text-ink-2">What you should see</span>
                  {current.step.expect}
                </p>
              )}
              <p className="mt-6 flex items-center gap-3">
                <Button
                  look="main"
                  className="!px-5 !py-2.5 !text-[17px]"
                  disabled={current.done || held}
                  onClick={done}
                >
                  <Check size={19} /> {current.done ? "Done" : "Done, next"}
                </Button>
                <span className="hidden items-center gap-1.5 text-ink-2 sm:flex">
                  <Key>x</Key> or space does it, <Key>j</Key> <Key>k</Key> other steps
                </span>
              </p>
              {held && <p className="mt-2 text-ink-2">This comes after the amp is marked as switched on.</p>}
            </div>
          )}
          {gate && steps.length > 0 && (
            <div className="mt-8 max-w-[720px] border-t border-line pt-4">
              <h2 className="text-[16px] font-bold">Before it may be switched on</h2>
              {state.stops.length > 0 && (
                <ul>
                  {state.stops.map((stop) => (
                    <li
                      key={stop.key}
                      className="grid grid-cols-[24px_1fr] gap-2 border-t border-line py-3 first:border-t-0"
                    >
                      <Mark severity="stop" />
                      <div>
                        <p className="text-[16px] font-semibold">{stop.text}</p>
                        <p className="text-ink-2">{stop.reason}</p>
                      </div>
                    </li>
                  ))}
                </ul>
              )}
              <ul>
                {state.cautions.map((caution) => (
                  <Caution
                    key={caution.finding.key}
                    caution={caution}
                    onAccept={(word) => run.accept.mutate({ key: caution.finding.key, word })}
                  />
                ))}
              </ul>
              {state.blocked.length > 0 ? (
                <p className="mt-2 text-ink-2">
                  {state.stops.length > 0 && (
                    <>
                      A stop is not accepted, it is mended:{" "}
                      <Link to={`/bench/${id}`} className="text-deep underline">
                        go to the Bench
                      </Link>
                      .{" "}
                    </>
                  )}
                  {state.blocked.filter((b) => !state.stops.some((s) => s.text === b)).join(" ")}
                </p>
              ) : (
                <p className="mt-1 text-ink-2">Everything before switching on is done.</p>
              )}
              <Button
                look="main"
                className="mt-3 !px-5 !py-2.5 !text-[17px]"
                disabled={state.blocked.length > 0 || run.turn.isPending}
                onClick={() => {
                  setChosen(undefined);
                  run.turn.mutate(true);
                }}
              >
                Mark as switched on
              </Button>
            </div>
          )}
          {state.is_on && (
            <div className="mt-8 flex flex-wrap items-center gap-3 border-t border-line pt-4">
              <Button look="main" onClick={() => run.turn.mutate(false)} disabled={run.turn.isPending}>
                Mark as switched off
              </Button>
              <Link to={`/log?take=new&hookup=${id}`} className="text-deep underline">
                Log a take of this
              </Link>
              <span className="text-ink-2">Switching off clears the ticks for next time.</span>
            </div>
          )}
        </section>
        <section
          aria-label="Steps"
          className="order-2 shrink-0 border-r md:min-h-0 md:overflow-y-auto border-line px-3 py-3 md:order-1 md:w-[380px] print:w-full print:overflow-visible"
        >
          <div className="flex items-center gap-2 pb-1">
            <button
              type="button"
              onClick={() => setMenu(true)}
              aria-label={`Hook-up: ${state.name}. Choose another`}
              className="flex min-w-0 items-center gap-1 rounded-md border border-line bg-sheet px-2 py-0.5 font-bold hover:border-ink"
            >
              <span className="truncate">{state.name}</span> <ChevronDown size={15} className="shrink-0" />
            </button>
            <Button
              look="quiet"
              className="no-print ml-auto"
              aria-label="Print"
              onClick={() => window.print()}
            >
              <Printer size={15} />
            </Button>
          </div>
          {phases.map((phase) => {
            const some = steps.filter((s) => s.step.phase === phase);
            const left = some.filter((s) => !s.done).length;
            return (
              <section key={phase} className="pt-2">
                <h2 className="flex justify-between px-1.5 text-[13px] font-bold">
                  {some[0]!.phase_name}
                  <span className="font-normal text-ink-2">
                    {left ? `${left} of ${some.length} left` : "done"}
                  </span>
                </h2>
                <ol>
                  {some.map((step) => (
                    <StepLine
                      key={step.step.id}
                      step={step}
                      active={step === current}
                      onGo={() => setChosen(step.step.id)}
                      onTick={(done) => run.tick.mutate({ step: step.step.id, done })}
                    />
                  ))}
                </ol>
              </section>
            );
          })}
        </section>
      </div>
      {menu && <HookupMenu at="run" onClose={() => setMenu(false)} />}
    </div>
  );
}

export default function RunSheet() {
  const { hookupId } = useParams();
  return hookupId ? <Sheet key={hookupId} id={hookupId} /> : <Choose at="run" />;
}
