import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
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
