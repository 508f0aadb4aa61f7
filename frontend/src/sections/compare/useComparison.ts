import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { answer, api, OFFLINE, Refusal, type Schemas } from "../../api/client";
import { tellOtherWindows } from "../../parts/elsewhere";
import { readLines } from "../../parts/ndjson";

export type Comparison = Schemas["ComparisonState"];
export type Track = Schemas["ComparedTrack"];
export type Part = Schemas["SoundPart"];
type Line = Schemas["ComparisonLine"];

/** What a comparison is, as it is sent: its recordings in their order, and its sections. */
export interface Doc {
  name: string;
  tracks: { take: number | null; audio: string; name: string }[];
  sections: Part[];
}

export const docOf = (state: Comparison): Doc => ({
  name: state.name,
  tracks: state.tracks.map((t) => ({
    take: t.take,
    audio: t.take === null ? t.audio : "",
    name: t.take === null ? t.called : "",
  })),
  sections: state.sections,
});

/** The letter a recording is heard by; g goes to other sections, so none has it. */
export const LETTERS = "abcdefhi";

export const keyOf = (id: number) => ["comparison", id];

/** A comparison, its edits with undo, and the work that is done on it in the background. */
export function useComparison(id: number) {
  const client = useQueryClient();
  const query = useQuery({
    queryKey: keyOf(id),
    queryFn: () =>
      answer(api.GET("/api/comparisons/{comparison_id}", { params: { path: { comparison_id: id } } })),
  });
  const state = query.data;
  const put = useCallback(
    (next: Comparison) => {
      client.setQueryData(keyOf(id), next);
      tellOtherWindows(keyOf(id), ["comparisons"]);
      void client.invalidateQueries({ queryKey: ["comparisons"] });
    },
    [client, id],
  );
  const before = useRef<Doc[]>([]);
  const after = useRef<Doc[]>([]);
  const edit = useMutation({
    mutationFn: ({ name, ...doc }: Doc) =>
      answer(
        api.PUT("/api/comparisons/{comparison_id}", {
          params: { path: { comparison_id: id } },
          body: { name, doc, saves: state?.saves ?? null },
        }),
      ),
    onSuccess: put,
    onError: () => void query.refetch(),
  });
  const save = edit.mutate;
  const change = (next: Partial<Doc>) => {
    if (!state || edit.isPending) return;
    before.current.push(docOf(state));
    after.current = [];
    save({ ...docOf(state), ...next });
  };
  const step = (from: Doc[], to: Doc[]) => {
    if (!state || edit.isPending) return;
    const next = from.pop();
    if (!next) return;
    to.push(docOf(state));
    save(next);
  };
  const work = useWork(id, state, put);
  return {
    query,
    state,
    put,
    change,
    busy: edit.isPending,
    error: edit.error,
    undo: () => step(before.current, after.current),
    redo: () => step(after.current, before.current),
    work,
  };
}

/** What is still to be worked out begins by itself, and can be stopped. */
function useWork(id: number, state: Comparison | undefined, put: (next: Comparison) => void) {
  const [doing, setDoing] = useState<Schemas["Doing"]>();
  const [error, setError] = useState<Refusal>();
  const abort = useRef<AbortController>(undefined);
  const [stopped, setStopped] = useState(false);
  const wanting = state?.wanting ?? false;
  const saves = state?.saves;
  const begin = useCallback(async () => {
    abort.current?.abort();
    const mine = new AbortController();
    abort.current = mine;
    setError(undefined);
    setStopped(false);
    setDoing({ name: "", what: "read", part: 0 });
    try {
      await readLines<Line>(`/api/comparisons/${id}/work`, {}, mine.signal, (line) => {
        if (line.doing) setDoing(line.doing);
        if (line.comparison) put(line.comparison);
      });
    } catch (found) {
      if (!mine.signal.aborted) setError(found instanceof Refusal ? found : OFFLINE);
    } finally {
      if (abort.current === mine) setDoing(undefined);
    }
  }, [id, put]);
  useEffect(() => {
    if (wanting) void begin();
    return () => abort.current?.abort();
  }, [wanting, saves, begin]);
  const stop = () => {
    abort.current?.abort();
    setDoing(undefined);
    setStopped(true);
  };
  return { doing, error, begin, stop, stopped: stopped && wanting };
}
