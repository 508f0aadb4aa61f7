import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Navigate, useNavigate, useParams } from "react-router";
import { answer, api } from "../../api/client";
import { Confirm } from "../../parts/Confirm";
import { Button } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { NameIt } from "../../parts/NameIt";
import { Empty, Failed, Loading } from "../../parts/states";
import { OneBlock, Summary, WhyLeftOut } from "./Aside";
import { Bar, type Asking, type View } from "./Bar";
import { clockAt } from "./clock";
import { Days } from "./Days";
import { Moved } from "./Moved";
import { New } from "./New";
import { Parts } from "./Parts";
import { Printed } from "./Printed";
import { PutAway } from "./PutAway";
import {
  blockKey,
  ofProject,
  partOf,
  usePlan,
  usePlans,
  useWork,
  type BlockState,
  type DayState,
} from "./usePlan";
import { When } from "./When";

function Work({ id, view }: { id: string; view: View }) {
  const go = useNavigate();
  const client = useQueryClient();
  const list = usePlans();
  const edits = usePlan(id);
  const work = useWork(id);
  const stored = edits.state;
  const [chosen, setChosen] = useState<string>();
  const [comparing, setComparing] = useState(false);
  const [asking, setAsking] = useState<Asking>();
  const before = useQuery({
    queryKey: ["plan", id, "before", stored?.saves],
    queryFn: () => answer(api.GET("/api/plans/{plan_id}/before", { params: { path: { plan_id: id } } })),
    enabled: comparing && Boolean(stored?.has_before),
  });
  const away = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/plans/{plan_id}/away", {
          params: { path: { plan_id: id } },
          body: { saves: stored?.saves ?? 0 },
        }),
      ),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ["plans"] });
      void go("/plan/put-away", { state: { id, name: stored?.name } });
    },
  });
  // While it is being laid out the best so far is shown.
  const plan = work.busy && work.best ? work.best : stored;
  const all = plan?.days.flatMap((day) => day.blocks.map((block) => ({ day, block }))) ?? [];
  const one = all.find(({ block }) => blockKey(block) === chosen);
  const left = plan?.left_out.find((each) => blockKey(each) === chosen);
  const pin = (block: BlockState, date: string, start: string) =>
    edits.change.mutate([{ op: "pin", pin: { part: block.part, choosing: block.choosing, date, start } }], {
      onSuccess: () => work.begin.mutate(false),
    });
  const unpin = (block: BlockState) =>
    edits.change.mutate([{ op: "unpin", part: block.part, choosing: block.choosing }]);
  const walk = (by: number) => {
    const at = all.findIndex(({ block }) => blockKey(block) === chosen);
    const next = all[at < 0 ? (by > 0 ? 0 : all.length - 1) : (at + by + all.length) % all.length];
    if (!next) return;
    setChosen(blockKey(next.block));
    document.querySelector<HTMLElement>(`[data-block="${blockKey(next.block)}"]`)?.focus();
  };
  const step = (by: -1 | 1) => (by < 0 ? stored?.undo : stored?.redo) && edits.step.mutate(by);
  const choice = (n: number) =>
    document.querySelectorAll<HTMLElement>('[aria-label="Why it does not fit"] li button')[n - 1]?.click();
  useKeys({
    u: () => step(-1),
    U: () => step(1),
    l: () => !work.busy && work.begin.mutate(false),
    ...(view === "days"
      ? {
          j: () => walk(1),
          k: () => walk(-1),
          ArrowRight: () => walk(1),
          ArrowLeft: () => walk(-1),
          p: () =>
            one &&
            (one.block.pinned
              ? unpin(one.block)
              : pin(one.block, one.day.date, clockAt(one.day, one.block.start))),
          Escape: () => (chosen ? setChosen(undefined) : false),
          ...Object.fromEntries([1, 2, 3, 4, 5, 6].map((n) => [String(n), () => (left ? choice(n) : false)])),
        }
      : {}),
  });
  if (edits.query.error && !stored)
    return <Failed error={edits.query.error} retry={() => void edits.query.refetch()} />;
  if (!plan || !stored) return <Loading what="the plan" />;
  const error =
    edits.change.error ?? edits.step.error ?? edits.free.error ?? work.begin.error ?? work.stop.error;
  const bare = plan.parts === 0;
  return (
    <div className="flex h-full min-h-0 flex-col overflow-y-auto lg:overflow-hidden">
      <Bar
        plan={plan}
        list={list.data?.plans}
        view={view}
        work={work}
        comparing={comparing}
        onCompare={() => setComparing(!comparing)}
        onAsk={setAsking}
        onStep={step}
      />
      {error && <Failed error={error} />}
      {away.error && <Failed error={away.error} />}
      {view === "parts" && <Parts plan={stored} edits={edits} />}
      {view === "when" && <When plan={stored} edits={edits} />}
      {view === "print" && <Printed plan={stored} />}
      {view === "days" &&
        (bare ? (
          <Empty title="No parts yet">
            Write down what is to be recorded, a line a part.
            <Button look="main" onClick={() => void go(`/plan/${id}/parts`)}>
              Add parts
            </Button>
          </Empty>
        ) : plan.days.length === 0 ? (
          <Empty title="No days yet">
            Say when somebody is there.
            <Button look="main" onClick={() => void go(`/plan/${id}/when`)}>
              Add a day
            </Button>
          </Empty>
        ) : (
          <div className="flex min-h-0 flex-1 flex-col lg:flex-row">
            <div className="min-w-0 flex-1 lg:overflow-y-auto">
              <Days
                plan={plan}
                before={comparing ? before.data : undefined}
                chosen={chosen}
                onChoose={setChosen}
                onPin={(block: BlockState, day: DayState, slot: number) =>
                  pin(block, day.date, clockAt(day, slot))
                }
              />
            </div>
            <aside
              aria-label="About it"
              className="shrink-0 border-t border-line bg-sheet lg:w-[348px] lg:overflow-y-auto lg:border-t-0 lg:border-l"
            >
              {one && (
                <OneBlock
                  plan={plan}
                  day={one.day}
                  block={one.block}
                  onPin={(date, start) => pin(one.block, date, start)}
                  onUnpin={() => unpin(one.block)}
                  onDone={(done, took) => {
                    const part = partOf(stored.project, one.block.part);
                    const said = one.block.choosing ? { chosen: done } : { done, took };
                    if (part) edits.change.mutate([{ op: "set_part", part: { ...part, ...said }, song: "" }]);
                  }}
                  onClose={() => setChosen(undefined)}
                />
              )}
              {!one && left && (
                <WhyLeftOut plan={stored} left={left} edits={edits} onClose={() => setChosen(undefined)} />
              )}
              {comparing && before.data && <Moved before={before.data} after={plan} />}
              {before.error && comparing && <Failed error={before.error} />}
              <Summary plan={plan} onLeft={(each) => setChosen(blockKey(each))} />
            </aside>
          </div>
        ))}
      {asking === "name" && (
        <NameIt
          title="Rename the project"
          name={plan.name}
          yes="Rename it"
          onName={(name) => edits.change.mutate([ofProject({ name })])}
          onClose={() => setAsking(undefined)}
        />
      )}
      <Confirm
        open={asking === "away"}
        title={`Put “${plan.name}” away?`}
        yes="Put it away"
        onYes={() => away.mutate()}
        onClose={() => setAsking(undefined)}
      >
        It goes off the list, with its parts and its plan. It can be brought back right after.
      </Confirm>
    </div>
  );
}

export default function Plan() {
  const { planId, view } = useParams();
  const list = usePlans();
  if (planId === "new") return <New first={false} />;
  if (planId === "put-away") return <PutAway />;
  if (planId) return <Work key={planId} id={planId} view={(view as View | undefined) ?? "days"} />;
  if (list.error) return <Failed error={list.error} retry={() => void list.refetch()} />;
  if (!list.data) return <Loading what="the projects" />;
  const newest = list.data.plans[0];
  return newest ? <Navigate to={`/plan/${newest.id}`} replace /> : <New first />;
}
