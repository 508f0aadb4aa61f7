import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useState } from "react";
import {
  answer,
  api,
  Refusal,
  type BenchState,
  type Change,
  type Schemas,
  type UnitView,
} from "../../api/client";

/** An edit that was asked for, until the server has answered it; `wish` counts them. */
type Edit = { do: "change"; changes: Change[]; revision: number; wish: number };
type Act = Edit | { do: "undo" | "redo" } | { do: "unpin" };

/** The state with its switches and knobs where they were just put, until the server has judged them. */
function moved(state: BenchState, changes: Change[]): BenchState {
  const to = new Map(
    changes.flatMap((c) => (c.op === "set" ? [[`${c.unit}/${c.control}`, c.value] as const] : [])),
  );
  const touched = new Set(changes.flatMap((c) => (c.op === "set" ? [c.unit] : [])));
  const put = (unit: UnitView): UnitView => ({
    ...unit,
    controls: unit.controls.map((view) => ({
      ...view,
      value: to.get(`${unit.id}/${view.control.id}`) ?? view.value,
    })),
  });
  return { ...state, units: state.units.map((unit) => (touched.has(unit.id) ? put(unit) : unit)) };
}

/** The state with what mends each finding, where that is known of this very state. */
function mended(state: BenchState, fixes: Schemas["Mended"] | undefined): BenchState {
  if (fixes?.saves !== state.saves) return state;
  return { ...state, analysis: { ...state.analysis, findings: fixes.findings } };
}

/** Tells the other windows of this browser that a hook-up was changed, and hears of theirs. */
function useOtherWindows(id: string, changedElsewhere: (saves: number) => void) {
  const channel = useMemo(() => new BroadcastChannel("low-tide-bench"), []);
  useEffect(() => {
    const heard = (event: MessageEvent<{ id: string; saves: number }>) => {
      if (event.data.id === id) changedElsewhere(event.data.saves);
    };
    channel.addEventListener("message", heard);
    return () => channel.removeEventListener("message", heard);
  }, [channel, id, changedElsewhere]);
  return channel;
}

/** A hook-up on the bench: its state, edits one after the other, and what to do when an edit is overtaken. */
export function useBench(id: string) {
  const client = useQueryClient();
  const key = ["hookup", id];
  const path = { params: { path: { hookup_id: id } } };
  /** Edits that another window came before, and the revision they were made on. */
  const [overtaken, setOvertaken] = useState<{ changes: Change[]; revision: number }>();
  /** Edits on their way, the oldest first: what is shown is the last answer with all of them made. */
  const [wishes, setWishes] = useState<readonly Edit[]>([]);
  const wished = useRef(0);
  /** Of two states the one that was saved later: an answer that took its time is no reason to go back. */
  const later = (got: BenchState) => {
    const now = client.getQueryData<BenchState>(key);
    return now && now.saves > got.saves ? now : got;
  };
  const query = useQuery({
    queryKey: key,
    queryFn: async () => later(await answer(api.GET("/api/hookups/{hookup_id}", path))),
  });
  /** Changes that are held to be looked at and not made; undefined while nothing is tried out. */
  const [held, setHeld] = useState<Change[]>();
  const what = useQuery({
    queryKey: ["what-if", id, query.data?.saves, held],
    queryFn: () =>
      answer(api.POST("/api/hookups/{hookup_id}/what-if", { ...path, body: { changes: held ?? [] } })),
    enabled: held !== undefined && held.length > 0,
    placeholderData: keepPreviousData,
    retry: false,
  });
  const standing = held?.length ? what.data : query.data;
  /** What is tried out is shown as it was before the last change, until the server has answered. */
  const behind = held !== undefined && held.length > 0 && what.isPlaceholderData;
  /** What mends each finding: tried by the server once the verdict is out, for the very state that is shown. */
  const fixes = useQuery({
    queryKey: ["fixes", id, standing?.saves, held ?? []],
    queryFn: () =>
      answer(api.POST("/api/hookups/{hookup_id}/fixes", { ...path, body: { changes: held ?? [] } })),
    enabled: !behind && standing !== undefined && standing.analysis.findings.some((f) => f.sought),
    retry: false,
  });
  const { refetch } = query;
  const other = useOtherWindows(
    id,
    useMemo(
      () => (saves: number) => {
        if (saves > (client.getQueryData<BenchState>(["hookup", id])?.saves ?? 0)) void refetch();
      },
      [client, id, refetch],
    ),
  );

  const act = useMutation({
    scope: { id: `bench-${id}` },
    mutationFn: (what: Act) => {
      // Read when it runs, not when it was asked for: an edit before it in the line may have saved.
      const saves = client.getQueryData<BenchState>(key)?.saves ?? 0;
      if (what.do === "unpin") {
        const query = { saves };
        return answer(api.POST("/api/hookups/{hookup_id}/unpin", { params: { ...path.params, query } }));
      }
      if (what.do === "change") {
        const body = { saves, changes: what.changes };
        return answer(api.POST("/api/hookups/{hookup_id}/changes", { ...path, body }));
      }
      return answer(api.POST(`/api/hookups/{hookup_id}/${what.do}`, { ...path, body: { saves } }));
    },
    onSettled: (_state, _error, what) => {
      if (what.do === "change") setWishes((all) => all.filter((each) => each.wish !== what.wish));
    },
    onSuccess: (state) => {
      client.setQueryData(key, later(state));
      other.postMessage({ id, saves: state.saves });
      void client.invalidateQueries({ queryKey: ["hookups"] });
      void client.invalidateQueries({ queryKey: ["run", id] });
      void client.invalidateQueries({ queryKey: ["loudness", id] });
      void client.invalidateQueries({ queryKey: ["feel", id] });
      void client.invalidateQueries({ queryKey: ["capture", id] });
    },
    onError: (error, what) => {
      if (error instanceof Refusal && error.status === 409 && what.do === "change") {
        setOvertaken((before) =>
          before
            ? { ...before, changes: [...before.changes, ...what.changes] }
            : { changes: what.changes, revision: what.revision },
        );
      } else void query.refetch();
    },
  });

  const copy = useMutation({
    mutationFn: (body: { changes: Change[]; revision: number }) =>
      answer(api.POST("/api/hookups/{hookup_id}/copy", { ...path, body })),
    onSuccess: () => void client.invalidateQueries({ queryKey: ["hookups"] }),
  });

  const ask = (changes: Change[]) => {
    wished.current += 1;
    const edit: Edit = {
      do: "change",
      changes,
      revision: query.data?.revision ?? 1,
      wish: wished.current,
    };
    setWishes((all) => [...all, edit]);
    act.mutate(edit);
  };
  const toCome = wishes.flatMap((each) => each.changes);
  const now = standing && (behind ? standing : mended(standing, fixes.data));
  const asWished = query.data && toCome.length > 0 ? moved(now ?? query.data, toCome) : now;
  const shown = held?.length ? (now ?? query.data) : asWished;
  return {
    query,
    /** What is shown: the hook-up as it stands, or with the held changes made. */
    state: shown && held?.length ? moved(shown, held) : shown,
    before: held?.length ? query.data : undefined,
    held,
    /** Why fixes could not be tried, and how to have them tried again. */
    unmended: fixes.error ? { error: fixes.error, retry: () => void fixes.refetch() } : undefined,
    refused: held?.length ? what.error : undefined,
    hold: () => setHeld([]),
    letGo: (last: boolean) => setHeld(last ? held?.slice(0, -1) : undefined),
    keep: () => {
      if (held?.length) ask(held);
      setHeld(undefined);
    },
    change: (changes: Change[]) => {
      if (held) setHeld([...held, ...changes]);
      else ask(changes);
    },
    undo: () => (held ? setHeld(held.slice(0, -1)) : act.mutate({ do: "undo" })),
    redo: () => act.mutate({ do: "redo" }),
    unpin: () => act.mutate({ do: "unpin" }),
    busy: act.isPending || (held !== undefined && what.isFetching && !what.data),
    refusal: act.error && !overtaken ? act.error : undefined,
    dismiss: () => act.reset(),
    overtaken,
    look: () => {
      setOvertaken(undefined);
      act.reset();
      void query.refetch();
    },
    copy: async (changes: Change[]) =>
      (await copy.mutateAsync({ changes, revision: query.data?.revision ?? 1 })).id,
    keepCopy: async () => {
      if (!overtaken) return id;
      const made = await copy.mutateAsync(overtaken);
      setOvertaken(undefined);
      act.reset();
      void query.refetch();
      return made.id;
    },
  };
}

export type Bench = ReturnType<typeof useBench>;
