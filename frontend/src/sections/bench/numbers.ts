import { useState } from "react";
import type { Finding } from "../../api/client";

/** What a finding is about, whatever its figures say now: the same from one answer to the next. */
export function identities(findings: Finding[]): string[] {
  const seen = new Map<string, number>();
  return findings.map((f) => {
    const about = [f.id, f.units, f.leads, f.which].join("|");
    const nth = (seen.get(about) ?? 0) + 1;
    seen.set(about, nth);
    return nth > 1 ? `${about}|${nth}` : about;
  });
}

/** The number that puts on the fix of a finding, by what the finding is about. */
export type Numbers = ReadonlyMap<string, number>;

/** Numbers after the findings changed: a finding that is still shown keeps its own, another gets the lowest free. */
export function renumbered(before: Numbers, findings: Finding[]): Numbers {
  const shown = identities(findings);
  const kept = new Map([...before].filter(([about]) => shown.includes(about)));
  const used = new Set(kept.values());
  let next = 1;
  for (const [i, about] of shown.entries()) {
    if (!findings[i]!.fix || kept.has(about)) continue;
    while (used.has(next)) next++;
    kept.set(about, next);
    used.add(next);
  }
  const same = kept.size === before.size && [...kept].every(([about, n]) => before.get(about) === n);
  return same ? before : kept;
}

/** The numbers of what is shown, held from one answer to the next. What is tried out begins with those of the hook-up as
 * it stands and leaves them as they were: its own may have been there first. */
export function useNumbers(findings: Finding[], trying: boolean): Numbers {
  const [kept, setKept] = useState<{ standing: Numbers; tried?: Numbers }>({ standing: new Map() });
  const next = renumbered((trying && kept.tried) || kept.standing, findings);
  const now = trying ? { standing: kept.standing, tried: next } : { standing: next };
  if (now.standing !== kept.standing || now.tried !== kept.tried) setKept(now);
  return next;
}

/** The finding whose fix a number puts on. */
export function numbered(findings: Finding[], numbers: Numbers, number: number): Finding | undefined {
  const shown = identities(findings);
  return findings[shown.findIndex((about) => numbers.get(about) === number)];
}
