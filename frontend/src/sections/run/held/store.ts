import { openDB, type DBSchema } from "idb";
import type { Schemas } from "../../../api/client";
import { HELD } from "../../../api/shutOut";

type Sent = Schemas["OfflineTick"] | Schemas["OfflineReading"];
type WithoutAge<T> = T extends unknown ? Omit<T, "age_s"> : never;

/** A tick or a reading that the server has not got; `words`: its step's; `quantity`: what is read there, if anything; `at`: ms by this device's own clock; `data`:
 * which data it is of; `why`: why it was not put in, kept until somebody has seen it. */
export type Held = WithoutAge<Sent> & {
  hookup: string;
  words: string;
  quantity?: string;
  at: number;
  data: string | null;
  why?: string;
};

interface Kept extends DBSchema {
  held: { key: string; value: Held; indexes: { hookup: string } };
}

const VERSION = 1;

const opened = () =>
  openDB<Kept>(HELD, VERSION, {
    upgrade: (db) => void db.createObjectStore("held", { keyPath: "key" }).createIndex("hookup", "hookup"),
    // Whoever wants it gone (a device that was shut out) is not kept from it.
    blocking: (_now, _next, event) => (event.target as IDBDatabase).close(),
  });

/** Something done with what is held; the database is not kept open over it. */
async function using<T>(work: (db: Awaited<ReturnType<typeof opened>>) => Promise<T>): Promise<T> {
  const db = await opened();
  try {
    return await work(db);
  } finally {
    db.close();
  }
}

/** What is held of a hook-up, in the order it was done in. */
export const heldOf = (hookup: string): Promise<Held[]> =>
  using(async (db) => (await db.getAllFromIndex("held", "hookup", hookup)).toSorted((a, b) => a.at - b.at));

export const hold = (held: Held): Promise<unknown> => using((db) => db.put("held", held));

export const drop = (key: string): Promise<unknown> => using((db) => db.delete("held", key));

/** Once the server has answered, both at once: what is done with goes, what was not put in stays with the reason. */
export const settle = (gone: readonly Held[], leftOut: readonly Held[] = []): Promise<unknown> =>
  using((db) => {
    const { store, done } = db.transaction("held", "readwrite");
    return Promise.all([
      ...gone.map((each) => store.delete(each.key)),
      ...leftOut.map((each) => store.put(each)),
      done,
    ]);
  });

const MOST_AGE_S = 30 * 24 * 3600;

/** As it is sent: with its age in place of a time, since the clocks of two devices need not agree. */
export function sent(held: Held): Sent {
  const { key, step, revision, round } = held;
  const age_s = Math.min(MOST_AGE_S, Math.max(0, (Date.now() - held.at) / 1000));
  const shared = { key, step, revision, round, age_s };
  return held.kind === "tick"
    ? { kind: held.kind, ...shared, done: held.done }
    : { kind: held.kind, ...shared, value: held.value };
}
