import { blockKey, type Plan } from "./usePlan";

const lies = (plan: Plan) =>
  new Map(
    plan.days.flatMap((day) =>
      day.blocks.map(
        (b) =>
          [
            blockKey(b),
            { name: `${b.song}, ${b.name}`, at: `${day.name}, ${b.at.split(" to ")[0]}` },
          ] as const,
      ),
    ),
  );

/** What a plan that was laid out anew moved, put in and left out. */
export function Moved({ before, after }: { before: Plan; after: Plan }) {
  const was = lies(before);
  const is = lies(after);
  const moved = [...is].filter(([key, here]) => was.has(key) && was.get(key)!.at !== here.at);
  const fresh = [...is].filter(([key]) => !was.has(key));
  const gone = [...was].filter(([key]) => !is.has(key));
  const rows = [
    ...moved.map(([key, here]) => ({ key, name: here.name, from: was.get(key)!.at, to: here.at })),
    ...fresh.map(([key, here]) => ({ key, name: here.name, from: "not laid", to: here.at })),
    ...gone.map(([key, there]) => ({ key, name: there.name, from: there.at, to: "not laid" })),
  ];
  return (
    <section aria-label="Before and after" className="border-b border-line px-4 py-3">
      <h2 className="mb-1 text-[14px] font-bold">Before and after</h2>
      <p className="text-[13px]">
        {before.changes} change-overs with {before.plugs} plugs moved before, {after.changes} with{" "}
        {after.plugs} now.
      </p>
      {rows.length === 0 && <p className="text-[13px] text-ink-2">Nothing lies anywhere else.</p>}
      <ul className="mt-1 grid gap-1 text-[13px]">
        {rows.map((row) => (
          <li key={row.key}>
            <b>{row.name}</b>
            <br />
            <span className="text-ink-2">
              {row.from} → {row.to}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
