import { useRef, useState } from "react";
import { OFFLINE, Refusal } from "../api/client";
import { bringIn } from "./bringIn";
import { readLines } from "./ndjson";

interface Line {
  problem?: string | null;
  part?: number | null;
}

/** Files that join something one after the other: sent by pieces, then read by the server, which tells how far it is. */
export function useJoining<T extends Line>(url: string, onLine: (line: T) => void) {
  const [at, setAt] = useState<{ name: string; part: number }>();
  const [error, setError] = useState<Refusal>();
  const abort = useRef<AbortController>(undefined);
  const add = async (files: File[]) => {
    const mine = new AbortController();
    abort.current = mine;
    setError(undefined);
    try {
      for (const file of files) {
        const told = (part: number) => setAt({ name: file.name, part });
        told(0);
        const upload = await bringIn(
          file,
          true,
          (part) => told(part / 2),
          () => mine.signal.aborted,
        );
        await readLines<T>(url, { upload, file_name: file.name.slice(0, 300) }, mine.signal, (line) => {
          if (typeof line.part === "number") told(0.5 + line.part / 2);
          onLine(line);
        });
      }
    } catch (found) {
      if (!mine.signal.aborted) setError(found instanceof Refusal ? found : OFFLINE);
    } finally {
      setAt(undefined);
    }
  };
  return { at, error, add, stop: () => abort.current?.abort() };
}
