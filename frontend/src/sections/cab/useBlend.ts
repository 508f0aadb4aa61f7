import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { answer, api, type Schemas } from "../../api/client";
import { tellOtherWindows } from "../../parts/elsewhere";

export type Blend = Schemas["BlendState"];
export type Doc = Schemas["BlendDoc"];
export type BlendPart = Doc["parts"][number];

export const MOST_PARTS = 6;
export const LETTERS = "ABCDEF";
export const keyOf = (id: number) => ["blend", id];

interface Wish {
  name: string;
  doc: Doc;
}

/** A blend and its edits: what was wished last is shown at once and sent one after the other, with undo. */
export function useBlend(id: number) {
  const client = useQueryClient();
  const query = useQuery({
    queryKey: keyOf(id),
    queryFn: () => answer(api.GET("/api/blends/{blend_id}", { params: { path: { blend_id: id } } })),
  });
  const state = query.data;
  const [wish, setWish] = useState<Wish>();
  const latest = useRef<Wish>(undefined);
  const before = useRef<Wish[]>([]);
  const after = useRef<Wish[]>([]);
  const send = useMutation({
    mutationFn: (wanted: Wish) =>
      answer(
        api.PUT("/api/blends/{blend_id}", {
          params: { path: { blend_id: id } },
          body: { ...wanted, saves: client.getQueryData<Blend>(keyOf(id))?.saves ?? null },
        }),
      ),
    onSuccess: (next, sent) => {
      client.setQueryData(keyOf(id), next);
      void client.invalidateQueries({ queryKey: ["blends"] });
      tellOtherWindows(keyOf(id), ["blends"]);
      if (latest.current === sent) setWish((latest.current = undefined));
    },
    onError: () => {
      setWish((latest.current = undefined));
      void query.refetch();
    },
  });
  const { isPending, mutate } = send;
  useEffect(() => {
    if (wish && !isPending) mutate(wish);
  }, [wish, isPending, mutate]);
  const now: Wish | undefined = wish ?? (state && { name: state.name, doc: state.doc });
  const put = useCallback((next: Wish) => {
    latest.current = next;
    setWish(next);
  }, []);
  const change = (next: Partial<Doc>, name?: string) => {
    if (!now) return;
    before.current = [...before.current.slice(-99), now];
    after.current = [];
    put({ name: name ?? now.name, doc: { ...now.doc, ...next } });
  };
  const step = (from: Wish[], to: Wish[]) => {
    const next = from.pop();
    if (!now || !next) return;
    to.push(now);
    put(next);
  };
  return {
    query,
    state,
    doc: now?.doc,
    name: now?.name ?? "",
    change,
    changePart: (place: number, next: Partial<BlendPart>) =>
      now &&
      change({
        parts: now.doc.parts.map((part, i) => (i === place ? { ...part, ...next } : part)),
        // Moved by hand, it stands as none of the ways would have it.
        ...("delay" in next ? { line_up: "" as const } : {}),
      }),
    error: send.error,
    settled: !wish,
    undo: () => step(before.current, after.current),
    redo: () => step(after.current, before.current),
  };
}

export const partOf = (impulse: number): BlendPart => ({
  impulse,
  gain: 0,
  inverted: false,
  delay: 0,
  pan: 0,
  mute: false,
  solo: false,
});
