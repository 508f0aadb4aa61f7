import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { answer, api, OFFLINE, Refusal, sendFile, type Schemas } from "../../api/client";

export type Impulse = Schemas["ImpulseEntry"];

/** Impulse responses that have some words; alike ones folded up to `within` dB, none where it is null. */
export const useLibrary = (search: string, within: number | null) =>
  useQuery({
    queryKey: ["impulses", search, within],
    queryFn: () =>
      answer(
        api.GET("/api/impulses", {
          params: { query: { search, ...(within === null ? {} : { within }) } },
        }),
      ),
    placeholderData: keepPreviousData,
  });

/** Those that lie under no other that was found: one that stands for them all, or the only one with the words. */
export function onTop(found: Impulse[]) {
  const shown = new Set(found.map((e) => e.id));
  return found.filter((e) => e.under === null || !shown.has(e.under));
}

interface Noted {
  id: number;
  note: Impulse["note"];
}

/** What is said of some of them at once, with undo: what was said of each before is kept. */
export function useNotes(all: Impulse[]) {
  const client = useQueryClient();
  const before = useRef<Noted[][]>([]);
  const after = useRef<Noted[][]>([]);
  const [undone, setUndone] = useState(0);
  const send = useMutation({
    mutationFn: (notes: Noted[]) => answer(api.POST("/api/impulses/notes", { body: { notes } })),
    onSuccess: () => void client.invalidateQueries({ queryKey: ["impulses"] }),
  });
  /** The same ones as they stand; what was deleted meanwhile is not among them. */
  const asNow = (notes: Noted[]) =>
    notes.flatMap(({ id }) => all.filter((e) => e.id === id).map(({ note }) => ({ id, note })));
  const change = async (notes: Noted[]) => {
    const was = asNow(notes);
    await send.mutateAsync(notes);
    before.current.push(was);
    after.current = [];
  };
  const step = async (from: Noted[][], to: Noted[][]) => {
    const wanted = from.at(-1);
    if (!wanted || send.isPending) return;
    const was = asNow(wanted);
    const there = wanted.filter(({ id }) => was.some((e) => e.id === id));
    if (there.length) await send.mutateAsync(there);
    from.pop();
    to.push(was);
    setUndone((n) => n + 1);
  };
  const quietly = (work: Promise<void>) => void work.catch(() => undefined);
  return {
    change: (notes: Noted[]) => change(notes),
    undo: () => quietly(step(before.current, after.current)),
    redo: () => quietly(step(after.current, before.current)),
    /** Grows with each step back or forth: what is typed of one begins anew. */
    undone,
    error: send.error,
    busy: send.isPending,
  };
}

interface Bringing {
  done: number;
  of: number;
  name: string;
}

/** Files that join the library one after the other; what is refused is told, and the others go on. */
export function useBringing() {
  const client = useQueryClient();
  const [at, setAt] = useState<Bringing>();
  const [brought, setBrought] = useState(0);
  const [refused, setRefused] = useState<{ name: string; why: string }[]>([]);
  const [error, setError] = useState<Refusal>();
  const stopped = useRef(false);
  const bring = async (files: File[]) => {
    stopped.current = false;
    setRefused([]);
    setBrought(0);
    setError(undefined);
    for (const [done, file] of files.entries()) {
      if (stopped.current) break;
      setAt({ done, of: files.length, name: file.name });
      // A folder that was chosen says more than the file's own name.
      const name = (file.webkitRelativePath || file.name).slice(-300);
      try {
        await sendFile(`/api/impulses?file_name=${encodeURIComponent(name)}`, file);
        setBrought((n) => n + 1);
      } catch (found) {
        const why = found instanceof Refusal ? found : OFFLINE;
        // Without a server none of the others would come in either.
        if (why.status === 0 && why.title === OFFLINE.title) {
          setError(why);
          break;
        }
        setRefused((all) => [...all, { name: file.name, why: why.problems.join(" ") }]);
      }
      if (done % 20 === 19) void client.invalidateQueries({ queryKey: ["impulses"] });
    }
    setAt(undefined);
    void client.invalidateQueries({ queryKey: ["impulses"] });
  };
  return {
    at,
    brought,
    refused,
    error,
    bring,
    stop: () => (stopped.current = true),
    forget: () => setRefused([]),
  };
}
