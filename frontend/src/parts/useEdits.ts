import { useMutation, useQuery, useQueryClient, type QueryKey } from "@tanstack/react-query";
import { useCallback, useEffect, useRef, useState } from "react";
import { Refusal } from "../api/client";
import { tellOtherWindows } from "./elsewhere";

const MOST_UNDO = 100;

/** Something that is kept and edited: what was wished last is shown at once and sent one after the other, with undo.
 *
 * `wishOf` says what of it is edited; `lists` hold it as well. */
export function useEdits<State extends { saves: number }, Wish>({
  queryKey,
  lists,
  fetch,
  save,
  wishOf,
}: {
  queryKey: QueryKey;
  lists: QueryKey[];
  fetch: () => Promise<State>;
  save: (wish: Wish, saves: number | null) => Promise<State>;
  wishOf: (state: State) => Wish;
}) {
  const client = useQueryClient();
  const query = useQuery({ queryKey, queryFn: fetch });
  const state = query.data as State | undefined;
  const [wish, setWish] = useState<Wish>();
  const [unsent, setUnsent] = useState<Wish>();
  const latest = useRef<Wish>(undefined);
  const before = useRef<Wish[]>([]);
  const after = useRef<Wish[]>([]);
  const put = useCallback(
    (next: State) => {
      client.setQueryData(queryKey, next);
      for (const list of lists) void client.invalidateQueries({ queryKey: list });
      tellOtherWindows(queryKey, ...lists);
    },
    // eslint-disable-next-line react-hooks/exhaustive-deps -- keys are written out anew each time and stay the same
    [client, ...queryKey],
  );
  const send = useMutation({
    mutationFn: (wanted: Wish) => save(wanted, client.getQueryData<State>(queryKey)?.saves ?? null),
    onSuccess: (next, sent) => {
      put(next);
      if (latest.current === sent) setWish((latest.current = undefined));
    },
    onError: (error, sent) => {
      // Where nobody answered it is not lost: it goes out with the next edit, or when it is asked for.
      if (error instanceof Refusal && error.status === 0) return setUnsent(sent);
      setWish((latest.current = undefined));
      void query.refetch();
    },
  });
  const { isPending, mutate } = send;
  useEffect(() => {
    if (wish && !isPending && wish !== unsent) mutate(wish);
  }, [wish, unsent, isPending, mutate]);
  const now = wish ?? (state && wishOf(state));
  const show = useCallback((next: Wish) => {
    latest.current = next;
    setWish(next);
  }, []);
  const change = (next: (now: Wish) => Wish) => {
    if (!now) return;
    before.current = [...before.current.slice(1 - MOST_UNDO), now];
    after.current = [];
    show(next(now));
  };
  const step = (from: Wish[], to: Wish[]) => {
    const next = from.pop();
    if (!now || !next) return;
    to.push(now);
    show(next);
  };
  return {
    query,
    state,
    now,
    put,
    change,
    error: send.error,
    /** Sends again what nobody answered. */
    retry: unsent && unsent === wish ? () => setUnsent(undefined) : undefined,
    /** Nothing is on its way: what is asked of the server now is asked about what is shown, or nobody answers. */
    settled: !wish || unsent === wish,
    undo: () => step(before.current, after.current),
    redo: () => step(after.current, before.current),
  };
}
