import { useSyncExternalStore } from "react";
import { OFFLINE, Refusal, type Schemas, type Take } from "../../api/client";
import { bringIn } from "../../parts/bringIn";
import { readLines } from "../../parts/ndjson";

/** A file that is brought in as a take, wherever in the program one goes meanwhile. */
export interface Bringing {
  id: number;
  file: File;
  hookup: string;
  session?: number;
  note: Schemas["TakeNote"];
  step: "waiting" | "bringing" | "inspecting" | "done" | "refused" | "stopped";
  part: number;
  take?: Take;
  error?: Refusal;
}

let all: readonly Bringing[] = [];
let next = 1;
let working = false;
const listeners = new Set<() => void>();
const aborts = new Map<number, AbortController>();
const heard = new Set<(take: Take) => void>();

function set(id: number, change: Partial<Bringing>) {
  all = all.map((each) => (each.id === id ? { ...each, ...change } : each));
  listeners.forEach((tell) => tell());
}

const stopped = (id: number) => all.find((each) => each.id === id)?.step === "stopped";

async function bring(one: Bringing) {
  const control = new AbortController();
  aborts.set(one.id, control);
  try {
    set(one.id, { step: "bringing", part: 0 });
    const upload = await bringIn(
      one.file,
      true,
      (part) => set(one.id, { part }),
      () => stopped(one.id),
    );
    if (stopped(one.id)) return;
    set(one.id, { step: "inspecting", part: 0 });
    const body = {
      upload,
      file_name: one.file.name,
      hookup: one.hookup,
      session: one.session ?? null,
      note: one.note,
    } satisfies Schemas["BringBody"];
    await readLines<Schemas["TakeLine"]>("/api/recordings", body, control.signal, (line) => {
      if (typeof line.part === "number") set(one.id, { part: line.part });
      if (line.take) {
        set(one.id, { step: "done", take: line.take });
        heard.forEach((tell) => tell(line.take!));
      }
    });
  } catch (error) {
    if (!stopped(one.id)) set(one.id, { step: "refused", error: error instanceof Refusal ? error : OFFLINE });
  } finally {
    aborts.delete(one.id);
  }
}

async function work() {
  if (working) return;
  working = true;
  for (;;) {
    const one = all.find((each) => each.step === "waiting");
    if (!one) break;
    await bring(one);
  }
  working = false;
}

/** Files by their names, numbers in them as numbers: what was recorded one after the other comes in so. */
export const inOrder = (files: Iterable<File>) =>
  [...files].toSorted((a, b) => a.name.localeCompare(b.name, "en", { numeric: true }));

/** Files one after the other, since the server takes one in at a time. */
export const bringing = {
  add(files: Omit<Bringing, "id" | "step" | "part">[]) {
    all = [...all, ...files.map((file) => ({ ...file, id: next++, step: "waiting" as const, part: 0 }))];
    listeners.forEach((tell) => tell());
    void work();
  },
  stop(id: number) {
    set(id, { step: "stopped" });
    aborts.get(id)?.abort();
  },
  /** Take what is over off the list. */
  clear() {
    all = all.filter((each) => ["waiting", "bringing", "inspecting"].includes(each.step));
    listeners.forEach((tell) => tell());
  },
  onTake(tell: (take: Take) => void) {
    heard.add(tell);
    return () => heard.delete(tell);
  },
};

export function useBringing(): readonly Bringing[] {
  return useSyncExternalStore(
    (tell) => {
      listeners.add(tell);
      return () => listeners.delete(tell);
    },
    () => all,
  );
}
