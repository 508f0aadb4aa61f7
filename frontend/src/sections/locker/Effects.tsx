import type { UseQueryResult } from "@tanstack/react-query";
import { Link } from "react-router";
import type { Schemas } from "../../api/client";
import { VerdictMark } from "../../parts/Mark";

const SHOWN = 6;

/** What saving would do to the hook-ups that use the unit, worked out before it is saved. */
export function Effects({
  query,
  used,
  dirty,
}: {
  query: UseQueryResult<{ effects: Schemas["Effect"][] }>;
  used: number;
  dirty: boolean;
}) {
  const effects = query.data?.effects ?? [];
  const many = `${used} hook-up${used === 1 ? "" : "s"} use${used === 1 ? "s" : ""} it`;
  return (
    <section aria-label="What that leads to" className="border-t border-line px-4 py-3 text-[13px]">
      <h2 className="font-bold">What that leads to</h2>
      <div role="status" className="mt-1 text-ink-2">
        {!dirty ? (
          <p>
            {used ? `${many}. What a change would do to them is told here first.` : "No hook-up uses it now."}
          </p>
        ) : query.error ? (
          <p>It cannot be worked out yet: {query.error.message}</p>
        ) : !query.data || query.isPlaceholderData ? (
          <p className="late">Working out what it would do …</p>
        ) : effects.length === 0 ? (
          <p>
            {used ? `${many}; the verdict and findings of all stay as they are.` : "No hook-up uses it now."}
          </p>
        ) : (
          <ul className="grid gap-2">
            {effects.slice(0, SHOWN).map((effect) => (
              <li key={effect.hookup} className="grid grid-cols-[18px_1fr] gap-2">
                <VerdictMark severity={effect.after} size={16} />
                <span>
                  <Link className="font-semibold text-ink underline" to={`/bench/${effect.hookup}`}>
                    {effect.name}
                  </Link>{" "}
                  {effect.words}
                </span>
              </li>
            ))}
            {effects.length > SHOWN && <li>and {effects.length - SHOWN} more</li>}
          </ul>
        )}
      </div>
    </section>
  );
}
