import { useQuery } from "@tanstack/react-query";
import { ChevronDown, FileText, Luggage, PanelLeftClose, PanelLeftOpen, Printer } from "lucide-react";
import { useEffect, useState } from "react";
import { Link, useLocation, useNavigate, useParams } from "react-router";
import { answer, api } from "../../api/client";
import { Button, Key } from "../../parts/controls";
import { currentHookup } from "../../parts/current";
import { useKeys } from "../../parts/keys";
import { useAwake } from "../../parts/sharing/useAwake";
import { Empty, Failed, Loading } from "../../parts/states";
import { Choose } from "../bench/Choose";
import { HookupMenu } from "../bench/HookupMenu";
import { Verdict } from "../bench/Verdict";
import { Begins } from "./Begins";
import { Gate } from "./Cautions";
import { HeldNote } from "./held/HeldNote";
import { Kit } from "./Kit";
import { useReadingKinds } from "./Reading";
import { StepAtHand } from "./StepAtHand";
import { Steps } from "./Steps";
import { Timers } from "./Timers";
import { isFirst, useRun } from "./useRun";
import { Wrong } from "./Wrong";

const FOLDED = "low-tide-run-folded";
const QUIET_LINK =
  "inline-flex items-center rounded-[7px] px-2 py-1 text-ink-2 hover:bg-faint hover:text-ink";

function Sheet({ id }: { id: string }) {
  const run = useRun(id);
  const go = useNavigate();
  // Asked for before a step wants it: by then the network may be gone.
  useReadingKinds();
  useAwake();
  const bench = useQuery({
    queryKey: ["hookup", id],
    queryFn: () => answer(api.GET("/api/hookups/{hookup_id}", { params: { path: { hookup_id: id } } })),
  });
  const [chosen, setChosen] = useState<string>();
  const [menu, setMenu] = useState(false);
  const [folded, setFolded] = useState(() => localStorage.getItem(FOLDED) === "yes");
  const { state } = run;
  useEffect(() => {
    if (state) currentHookup.set(id);
  }, [id, state]);
  const steps = state?.steps ?? [];
  const gate = state && !state.is_on;
  const open = steps.find((s) => !s.done && (gate ? isFirst(s) : !isFirst(s)));
  const current = steps.find((s) => s.step.id === chosen) ?? open;
  const held = Boolean(gate && current && !isFirst(current));
  const fold = () => {
    localStorage.setItem(FOLDED, folded ? "no" : "yes");
    setFolded(!folded);
  };
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
    f: fold,
    w: () => void go(`/run/${id}/wrong`),
    Escape: () => setChosen(undefined),
    x: done,
    // A button that has the focus is pressed by it.
    " ": (event) =>
      event.target instanceof HTMLElement && event.target.closest("button, a, summary") ? false : done(),
  });

  if (run.query.error && !state)
    return <Failed error={run.query.error} retry={() => void run.query.refetch()} />;
  if (!state) return <Loading what="the run sheet" />;
  const refusal = [run.tick, run.read, run.takeBack, run.accept, run.turn, run.begin, run.stillOn].find(
    (each) => each.error,
  )?.error;
  const off = () => run.turn.mutate(false);
  return (
    <div className="flex h-full flex-col overflow-y-auto md:overflow-hidden print:overflow-visible">
      <Verdict verdict={state.verdict} facts={bench.data?.analysis.facts ?? []} />
      {refusal && <Failed error={refusal} />}
      <HeldNote held={run.held} />
      <Begins run={run} state={state} />
      <Timers state={state} />
      {state.left_on != null && (
        <p
          role="alert"
          className="no-print flex flex-wrap items-center gap-3 border-b border-caution bg-sheet px-4 py-2 text-[17px]"
        >
          <b>Still on?</b> No take for {Math.round(state.left_on)} min.
          <Button look="main" onClick={() => run.stillOn.mutate()}>
            It is meant to be on
          </Button>
          <Button onClick={off}>It is off</Button>
        </p>
      )}
      <div className="flex flex-col md:min-h-0 md:flex-1 md:flex-row">
        <section
          aria-label="The step at hand"
          className="no-print order-1 bg-sheet px-6 py-5 md:order-2 md:min-h-0 md:flex-1 md:overflow-y-auto md:px-10"
        >
          {state.is_on && (
            <p role="status" className="mb-4 rounded-lg bg-shoal px-3 py-2 text-[16px] font-semibold">
              Switched on
              {state.since &&
                ` since ${new Date(state.since).toLocaleTimeString("en-GB", { timeStyle: "short" })}`}
              . Speaker leads, taps and selectors stay as they are; standby counts as on.
            </p>
          )}
          {steps.length === 0 && <Empty title="Nothing to switch on">There is no amp in this hook-up.</Empty>}
          {current && <StepAtHand run={run} step={current} held={held} onDone={done} />}
          {!current && steps.length > 0 && (
            <p className="text-[24px] font-bold">
              {gate ? "Every step before switching on is done." : "Every step is done."}
            </p>
          )}
          <p className="mt-6">
            <Link
              to={`/run/${id}/wrong`}
              className="inline-flex min-h-[44px] items-center gap-2 rounded-[7px] border-[1.5px] border-ink bg-sheet px-4 text-[17px] font-semibold hover:bg-faint"
            >
              What is wrong? <Key>w</Key>
            </Link>
          </p>
          {gate && steps.length > 0 && <Gate run={run} state={state} onTurned={() => setChosen(undefined)} />}
          {state.is_on && (
            <div className="mt-8 flex flex-wrap items-center gap-3 border-t border-line pt-4">
              <Button look="main" onClick={off} disabled={run.turn.isPending}>
                Mark as switched off
              </Button>
              <Link
                to={`/log?take=new&hookup=${id}`}
                className="inline-flex min-h-[24px] items-center text-deep underline"
              >
                Log a take of this
              </Link>
              <span className="text-ink-2">Switching off clears the ticks for next time.</span>
            </div>
          )}
        </section>
        <section
          aria-label="Steps"
          className={`order-2 shrink-0 border-r border-line px-3 py-3 md:order-1 md:min-h-0 md:overflow-y-auto print:w-full print:overflow-visible ${folded ? "md:w-[64px]" : "md:w-[380px]"}`}
        >
          <div className={`flex items-center gap-1 pb-1 ${folded ? "md:flex-col" : ""}`}>
            <button
              type="button"
              onClick={() => setMenu(true)}
              aria-label={`Hook-up: ${state.name}. Choose another`}
              className={`flex min-w-0 items-center gap-1 min-h-[24px] rounded-md border border-line bg-sheet px-2 py-0.5 font-bold hover:border-ink ${folded ? "md:hidden" : ""}`}
            >
              <span className="truncate">{state.name}</span> <ChevronDown size={15} className="shrink-0" />
            </button>
            <span className={`no-print ml-auto flex ${folded ? "md:ml-0 md:flex-col" : ""}`}>
              <Link to={`/run/${id}/kit`} aria-label="Kit list" title="Kit list" className={QUIET_LINK}>
                <Luggage size={17} />
              </Link>
              <a
                href={`/api/hookups/${id}/run.md`}
                aria-label="Markdown"
                title="Markdown"
                className={QUIET_LINK}
              >
                <FileText size={17} />
              </a>
              <Button
                look="quiet"
                className="!px-2"
                aria-label="Print"
                title="Print"
                onClick={() => window.print()}
              >
                <Printer size={17} />
              </Button>
              <Button
                look="quiet"
                className="!px-2 max-md:hidden"
                aria-label={folded ? "Show all steps" : "Fold the other steps"}
                title={folded ? "Show all steps (f)" : "Fold the other steps (f)"}
                aria-expanded={!folded}
                onClick={fold}
              >
                {folded ? <PanelLeftOpen size={17} /> : <PanelLeftClose size={17} />}
              </Button>
            </span>
          </div>
          <p className="hidden text-[12px] print:block">
            {state.verdict.words} Valve amps hold lethal voltages, also switched off: the case stays closed.
            Never on without a load. Makers’ manuals, local codes and a qualified technician stand above this
            sheet.
          </p>
          <div className={folded ? "md:hidden print:block" : ""}>
            <Steps
              steps={steps}
              current={current}
              onGo={setChosen}
              onTick={(step, ticked) => run.tick.mutate({ step, done: ticked })}
            />
          </div>
        </section>
      </div>
      {menu && <HookupMenu at="run" onClose={() => setMenu(false)} />}
    </div>
  );
}

export default function RunSheet() {
  const { hookupId, faultId } = useParams();
  const { pathname } = useLocation();
  if (!hookupId) return <Choose at="run" />;
  if (pathname.endsWith("/kit")) return <Kit key={hookupId} id={hookupId} />;
  if (faultId || pathname.endsWith("/wrong")) return <Wrong key={hookupId} id={hookupId} fault={faultId} />;
  return <Sheet key={hookupId} id={hookupId} />;
}
