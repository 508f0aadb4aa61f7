import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef } from "react";
import { answer, api, OFFLINE, ownWord, soon, type RunState, type Schemas } from "../../api/client";
import { isLost } from "../../parts/live/useLive";
import { tellOtherWindows } from "../../parts/elsewhere";
import type { Held } from "./held/store";
import { useHeld, type Work } from "./held/useHeld";

export type StepState = RunState["steps"][number];

/** Work on its way: the word it goes by, and whether this device holds it. */
type Begun = { word: string; isHeld: Promise<boolean> };

/** Phases that are gone through before an amp may be marked as switched on. */
export const isFirst = (step: StepState) => step.step.phase === "leave" || step.step.phase === "before";

/** The sheet with what is held on this device ticked too; what was read and is not judged keeps the amp off. */
function withHeld(sheet: RunState, held: readonly Held[]): RunState {
  if (held.length === 0) return sheet;
  const ticks = new Map(held.flatMap((each) => (each.kind === "tick" ? [[each.step, each.done]] : [])));
  return {
    ...sheet,
    steps: sheet.steps.map((each) => ({ ...each, done: ticks.get(each.step.id) ?? each.done })),
    blocked: [...sheet.blocked, "Ticks or readings are held on this device, and not judged yet."],
    // The server counts those as left that are held here.
    unticked: ticks.size > 0 ? "" : sheet.unticked,
  };
}

/** The run sheet of a hook-up, and all that is done with it, in the order in which it was done. */
export function useRun(id: string) {
  const client = useQueryClient();
  const key = ["run", id];
  const path = { params: { path: { hookup_id: id } } };
  const query = useQuery({
    queryKey: key,
    queryFn: () => answer(api.GET("/api/hookups/{hookup_id}/run", path)),
    // Quiet hours, and what was left on, come with time.
    refetchInterval: 30_000,
  });
  const held = useHeld(id, (state) => client.setQueryData(key, state));
  const { current: begun } = useRef(new WeakMap<object, Begun>());
  /** Work is held before it is sent, and by those that wait for the one before: a page that is loaded again in between
   * still has it. */
  const hold = (of: { step: string }, work: Work) => {
    const word = ownWord();
    const sheet = client.getQueryData<RunState>(key);
    const step = sheet?.steps.find((each) => each.step.id === of.step)?.step;
    const isHeld = sheet && step ? held.keep(word, sheet, step, work) : Promise.resolve(false);
    begun.set(of, { word, isHeld: isHeld.catch(() => false) });
  };
  /** Sent under the word it is held under: an answer that was lost may have been a yes. What the server could not be told
   * stays held, and nothing comes in place of the sheet. */
  const orHeld = async (of: object, send: (word: string) => Promise<RunState>) => {
    const { word, isHeld } = begun.get(of)!;
    try {
      if (isLost()) throw OFFLINE;
      const sheet = await send(word);
      void isHeld.then((was) => was && held.drop(word));
      return sheet;
    } catch (error) {
      const isHere = await isHeld;
      if (error === OFFLINE && isHere) return void (await held.look());
      if (isHere) void held.drop(word);
      throw error;
    }
  };
  const onSuccess = (state: RunState | undefined) => {
    if (!state) return;
    const related = [["timers"], ["hookup", id], ["hookups"]];
    for (const queryKey of related) void client.invalidateQueries({ queryKey });
    tellOtherWindows(key, ...related);
    // An answer that is older than what was ticked since does not take that back.
    if (client.isMutating({ mutationKey: key }) > 1) return;
    client.setQueryData(key, state);
  };
  const scope = { id: `run-${id}` };
  const onError = () => void query.refetch();
  const shared = { scope, mutationKey: key, onSuccess, onError };
  const paint = (step: string, done: boolean) =>
    client.setQueryData<RunState>(
      key,
      (now) =>
        now && {
          ...now,
          steps: now.steps.map((each) => (each.step.id === step ? { ...each, done } : each)),
        },
    );
  const tick = useMutation({
    ...shared,
    // Painted at once: whoever stands at the amp does not wait for it. What was not written down is not left ticked.
    onMutate: (work) => {
      hold(work, { kind: "tick", done: work.done });
      paint(work.step, work.done);
    },
    onError: (_error, { step, done }) => {
      paint(step, !done);
      onError();
    },
    mutationFn: (work: { step: string; done: boolean }) =>
      orHeld(work, (word) => {
        const body = { ...work, key: word };
        return answer(api.POST("/api/hookups/{hookup_id}/run/tick", { ...path, body, signal: soon() }));
      }),
  });
  const read = useMutation({
    ...shared,
    onMutate: (work) => {
      if (!work.from_device) hold(work, { kind: "reading", value: work.value ?? null });
    },
    mutationFn: (work: Omit<Schemas["ReadBody"], "key">) => {
      const send = (word: string) => {
        const body = { ...work, key: word };
        return answer(api.POST("/api/hookups/{hookup_id}/run/read", { ...path, body, signal: soon() }));
      };
      // What the simulated device shows, only the server knows.
      if (work.from_device) return send(ownWord());
      return orHeld(work, send);
    },
  });
  const takeBack = useMutation({
    ...shared,
    mutationFn: (step: string) =>
      answer(api.POST("/api/hookups/{hookup_id}/run/take-back", { ...path, body: { step } })),
  });
  const accept = useMutation({
    ...shared,
    mutationFn: (body: { key: string; word: string }) =>
      answer(api.POST("/api/hookups/{hookup_id}/run/accept", { ...path, body })),
  });
  const turn = useMutation({
    ...shared,
    mutationFn: (on: boolean) =>
      answer(api.POST("/api/hookups/{hookup_id}/run/switch", { ...path, body: { on } })),
  });
  const begin = useMutation({
    ...shared,
    mutationFn: (standing: string) =>
      answer(api.POST("/api/hookups/{hookup_id}/run/begin", { ...path, body: { standing } })),
  });
  const stillOn = useMutation({
    ...shared,
    mutationFn: () => answer(api.POST("/api/hookups/{hookup_id}/run/still-on", path)),
  });
  return {
    query,
    state: query.data && withHeld(query.data, held.held),
    tick,
    read,
    takeBack,
    accept,
    turn,
    begin,
    stillOn,
    held,
  };
}

export type Run = ReturnType<typeof useRun>;
