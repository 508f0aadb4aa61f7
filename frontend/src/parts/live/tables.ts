import type { QueryKey } from "@tanstack/react-query";

/** What is read anew when a table was written, by the first word of its key. What rests on a state by its number is not. */
const RESTS_ON: Record<string, string[]> = {
  attachment: ["attachments", "take"],
  blend: ["blends", "blend", "blend-sources"],
  comparison: ["comparisons", "comparison", "list"],
  drill: ["drills"],
  drill_sitting: ["drills"],
  fault: ["faults", "fault", "run"],
  gear: ["gear", "unit", "hookups", "hookup", "run", "kit", "loudness", "preferences"],
  hookup: ["hookups", "hookup", "run", "kit", "faults", "loudness", "capture", "variants", "plan"],
  impulse: ["impulses", "blends", "blend-sources"],
  inspection: ["report"],
  kit: ["kit"],
  mix: ["mixes", "mix"],
  note: ["lines"],
  pick: ["feel"],
  plan: ["plans", "plan"],
  preference: ["preferences", "hookups", "hookup", "run", "loudness"],
  reading: ["readings", "loudness", "ears", "run"],
  session: ["sessions", "takes"],
  step_reading: ["run"],
  suspect: ["suspects", "gear", "faults"],
  switched: ["run", "ears", "lines"],
  take: ["takes", "take", "sessions", "lines", "ears", "run"],
  timer: ["timers", "run"],
};

/** Asked for by what was typed or done just now: worked out anew when that changes, not when others write. */
const OWN = new Set(["acts", "asked", "tried", "pad", "correction"]);

export function restsOn(tables: string[]): (key: QueryKey) => boolean {
  const first = new Set(tables.flatMap((table) => RESTS_ON[table] ?? []));
  return (key) => first.has(String(key[0])) && !OWN.has(String(key[1])) && !OWN.has(String(key[2]));
}
