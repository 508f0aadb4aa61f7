import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useSyncExternalStore } from "react";
import { kept, WINDOW } from "../../api/client";
import { follow, type Changes, type Reach } from "./follow";
import { restsOn } from "./tables";

/** In place of tables: other data altogether. */
const OTHER_DATA = "*";

let reach: Reach = "live";
const listeners = new Set<() => void>();

function setReach(now: Reach) {
  if (reach === now) return;
  reach = now;
  listeners.forEach((tell) => tell());
}

/** What others change is read anew, as it happens; for the whole page, once. */
export function useLive() {
  const client = useQueryClient();
  useEffect(() => {
    const control = new AbortController();
    const heard = ({ changes, missed }: Changes) => {
      const others = changes.filter((change) => change.window !== WINDOW);
      const tables = others.flatMap((change) => change.tables);
      if (missed || tables.includes(OTHER_DATA)) return void client.invalidateQueries();
      const rests = restsOn(tables);
      if (tables.length) void client.invalidateQueries({ predicate: (query) => rests(query.queryKey) });
    };
    // What happened while nobody was reached is not known: all is read anew.
    const reached = (now: Reach) => {
      if (reach === "lost" && now !== "lost") void client.invalidateQueries();
      setReach(now);
    };
    void follow(heard, reached, control.signal);
    kept.addEventListener("shown", () => setReach("lost"), { signal: control.signal });
    return () => control.abort();
  }, [client]);
}

/** Whether the server is out of reach, as far as is known now. */
export const isLost = () => reach === "lost";

/** Whether the server is reached, and how. */
export const useReach = (): Reach =>
  useSyncExternalStore(
    (changed) => {
      listeners.add(changed);
      return () => void listeners.delete(changed);
    },
    () => reach,
  );
