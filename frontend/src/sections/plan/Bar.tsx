import { ChevronDown } from "lucide-react";
import { Link, useNavigate } from "react-router";
import type { Schemas } from "../../api/client";
import { Button, Key } from "../../parts/controls";
import { Menu } from "../../parts/Menu";
import type { Plan, Work } from "./usePlan";

export type View = "days" | "parts" | "when" | "print";
export type Asking = "name" | "away";

const LINK = "rounded px-1.5 py-1 text-deep underline hover:bg-faint";

/** What is being done, or how long it took, with a way to stop it or to go on. */
function Doing({ work }: { work: Work }) {
  const { working, running } = work;
  if (!working) return null;
  if (working.failed) return <span className="text-[13px] text-stop">{working.failed}</span>;
  const seconds = `${working.seconds < 10 ? working.seconds.toFixed(1) : Math.round(working.seconds)} s`;
  return (
    <span role="status" className="flex items-center gap-2 text-[13px] text-ink-2">
      {running && (
        <span
          role="progressbar"
          aria-label="How far this stage is"
          aria-valuemin={0}
          aria-valuemax={100}
          aria-valuenow={Math.round(working.part * 100)}
          className="h-1.5 w-16 overflow-hidden rounded-full bg-line"
        >
          <span className="block h-full bg-deep" style={{ width: `${working.part * 100}%` }} />
        </span>
      )}
      <span>
        {seconds} · {working.said}
        {running && working.parts > 0 && `, ${working.parts} blocks laid`}
      </span>
      {running ? (
        <Button onClick={() => work.stop.mutate()}>Stop, keep the best</Button>
      ) : (
        working.said.startsWith("the best") && (
          <button type="button" className="underline" onClick={() => work.begin.mutate(true)}>
            keep looking
          </button>
        )
      )}
    </span>
  );
}

/** Which project it is, and what can be done with it. */
export function Bar({
  plan,
  list,
  view,
  work,
  comparing,
  onCompare,
  onAsk,
  onStep,
}: {
  plan: Plan;
  list: Schemas["PlanEntry"][] | undefined;
  view: View;
  work: Work;
  comparing: boolean;
  onCompare: () => void;
  onAsk: (what: Asking) => void;
  onStep: (by: -1 | 1) => void;
}) {
  const go = useNavigate();
  const laid = plan.project.laid.blocks.length > 0;
  const to = (next: View) => (next === "days" ? `/plan/${plan.id}` : `/plan/${plan.id}/${next}`);
  const tab = (next: View, name: string) => (
    <Link
      to={to(next)}
      aria-current={view === next ? "page" : undefined}
      className={`rounded-[7px] border-[1.5px] px-2.5 py-1 text-[13px] font-semibold ${view === next ? "border-ink bg-shoal" : "border-line bg-sheet hover:bg-faint"}`}
    >
      {name}
    </Link>
  );
  return (
    <div className="no-print flex shrink-0 flex-wrap items-center gap-2 border-b border-line px-4 py-2">
      <select
        aria-label="Project"
        className="max-w-[220px] rounded-md border border-line bg-sheet px-2 py-1 font-semibold"
        value={plan.id}
        onChange={(event) => void go(`/plan/${event.target.value}`)}
      >
        {(list ?? [plan]).map((each) => (
          <option key={each.id} value={each.id}>
            {each.name}
          </option>
        ))}
      </select>
      <Button
        look="main"
        disabled={work.busy || work.begin.isPending}
        onClick={() => work.begin.mutate(false)}
      >
        {laid ? "Lay it out again" : "Lay it out"} <Key>l</Key>
      </Button>
      {tab("days", "Plan")}
      {tab("parts", `Parts, ${plan.parts}`)}
      {tab("when", "Days and people")}
      <Doing work={work} />
      <span className="ml-auto flex flex-wrap items-center gap-1 text-[13px]">
        {plan.has_before && view === "days" && (
          <button type="button" aria-pressed={comparing} className={LINK} onClick={onCompare}>
            {comparing ? "only what is" : "before and after"}
          </button>
        )}
        {laid && (
          <>
            <a className={LINK} href={`/api/plans/${plan.id}/plan.ics`} download>
              iCalendar
            </a>
            <a className={LINK} href={`/api/plans/${plan.id}/plan.csv`} download>
              CSV
            </a>
            <Link className={LINK} to={to("print")}>
              Print
            </Link>
          </>
        )}
        <Menu
          trigger={
            <Button look="quiet">
              More <ChevronDown size={14} />
            </Button>
          }
          items={[
            ...(plan.undo ? [{ label: `Undo: ${plan.undo} (u)`, key: "undo", run: () => onStep(-1) }] : []),
            ...(plan.redo
              ? [{ label: `Do again: ${plan.redo} (U)`, key: "redo", run: () => onStep(1) }]
              : []),
            { label: "New project …", run: () => void go("/plan/new") },
            { label: "Rename …", run: () => onAsk("name") },
            { label: "Put it away …", run: () => onAsk("away") },
          ]}
        />
      </span>
    </div>
  );
}
