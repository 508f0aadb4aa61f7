import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { answer, api, type Schemas } from "../../api/client";
import { tellOtherWindows } from "../../parts/elsewhere";

export type Plan = Schemas["PlanState"];
export type Project = Plan["project"];
export type Part = Schemas["Part"];
export type DayState = Plan["days"][number];
export type BlockState = DayState["blocks"][number];
export type ProjectChange = Schemas["ProjectChangesBody"]["changes"][number];
export type Working = Schemas["Working"];
export type LeftOut = Plan["left_out"][number];

/** What is said of the project itself; the rest of it stays. */
export const ofProject = (said: Partial<Omit<Schemas["SetProject"], "op">>): ProjectChange => ({
  op: "set_project",
  name: null,
  school: null,
  choosing_level: null,
  ...said,
});

export const SLOT_MIN = 5;
export const keyOf = (id: string) => ["plan", id];
export const blockKey = (block: { part: string; choosing: boolean }) =>
  block.choosing ? `${block.part}:choose` : block.part;

/** A part by its id. */
export const partOf = (project: Project, id: string): Part | undefined =>
  project.songs.flatMap((song) => song.parts).find((part) => part.id === id);

export const usePlans = () => useQuery({ queryKey: ["plans"], queryFn: () => answer(api.GET("/api/plans")) });

/** What changes a project, or reads it anew where it was changed elsewhere, waits for what was wished before. */
const inTurn = (id: string) => ({ id: `plan ${id}` });

/** A project with its plan, and everything that changes it, one after the other in the order it was wished. */
export function usePlan(id: string) {
  const client = useQueryClient();
  const path = { plan_id: id };
  const queryKey = keyOf(id);
  const query = useQuery({
    queryKey,
    queryFn: () => answer(api.GET("/api/plans/{plan_id}", { params: { path } })),
  });
  const saves = () => client.getQueryData<Plan>(queryKey)?.saves ?? 0;
  const put = (next: Plan) => {
    client.setQueryData(queryKey, next);
    void client.invalidateQueries({ queryKey: ["plans"] });
    tellOtherWindows(queryKey, ["plans"]);
  };
  // What is refused was another's state: it is looked at as it is now, and the refusal stands beside it.
  const refused = () => void query.refetch();
  const scope = inTurn(id);
  const change = useMutation({
    scope,
    mutationFn: (changes: ProjectChange[]) =>
      answer(
        api.POST("/api/plans/{plan_id}/changes", { params: { path }, body: { changes, saves: saves() } }),
      ),
    onSuccess: put,
    onError: refused,
  });
  const lines = useMutation({
    scope,
    mutationFn: (text: string) =>
      answer(api.POST("/api/plans/{plan_id}/lines", { params: { path }, body: { text, saves: saves() } })),
    onSuccess: put,
  });
  const step = useMutation({
    scope,
    mutationFn: (by: -1 | 1) =>
      answer(api.POST("/api/plans/{plan_id}/step", { params: { path }, body: { by, saves: saves() } })),
    onSuccess: put,
    onError: refused,
  });
  const free = useMutation({
    scope,
    mutationFn: (way: { part: string; choosing: boolean; words: string }) =>
      answer(api.POST("/api/plans/{plan_id}/free", { params: { path }, body: { ...way, saves: saves() } })),
    onSuccess: put,
    onError: refused,
  });
  return { query, state: query.data, change, lines, step, free, put };
}

export type PlanEdits = ReturnType<typeof usePlan>;

/** How far a plan is that is being laid out; what comes of it is read once it is over. */
export function useWork(id: string) {
  const client = useQueryClient();
  const path = { plan_id: id };
  const queryKey = ["plan-work", id];
  const query = useQuery({
    queryKey,
    queryFn: () => answer(api.GET("/api/plans/{plan_id}/work", { params: { path } })),
    refetchInterval: ({ state }) => (state.data?.working && !state.data.working.over ? 400 : false),
  });
  const working = query.data?.working ?? undefined;
  const running = working !== undefined && !working.over;
  // Whoever undoes at once means the plan that has just come in: it is read before anything is sent about it.
  const { mutate: read, isPending: reading } = useMutation({
    scope: inTurn(id),
    mutationFn: () => client.invalidateQueries({ queryKey: keyOf(id) }),
    onSettled: () => {
      void client.invalidateQueries({ queryKey: ["plans"] });
      tellOtherWindows(keyOf(id), ["plans"]);
    },
  });
  const ran = useRef(running);
  useEffect(() => {
    if (ran.current && !running) read();
    ran.current = running;
  }, [running, read]);
  const begin = useMutation({
    mutationFn: (keepLooking: boolean) =>
      answer(
        api.POST("/api/plans/{plan_id}/work", { params: { path }, body: { keep_looking: keepLooking } }),
      ),
    onSuccess: (next) => client.setQueryData(queryKey, next),
  });
  const stop = useMutation({
    mutationFn: () => answer(api.POST("/api/plans/{plan_id}/work/stop", { params: { path } })),
    onSuccess: (next) => client.setQueryData(queryKey, next),
  });
  return { working, running, busy: running || reading, best: query.data?.best ?? undefined, begin, stop };
}

export type Work = ReturnType<typeof useWork>;
