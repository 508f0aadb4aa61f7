import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { Link } from "react-router";
import { answer, api, type BenchState, type Change } from "../../api/client";
import { TextInput } from "../../parts/controls";
import { Failed, Loading } from "../../parts/states";
import { useKinds } from "../locker/kinds";
import { Panel } from "./Panel";

interface Props {
  state: BenchState;
  onChoose: (changes: Change[]) => void;
  onClose: () => void;
}

/** Units of the locker that are not in the hook-up yet. */
export function AddUnit({ state, onChoose, onClose }: Props) {
  const [words, setWords] = useState("");
  const search = useDeferredValue(words);
  const kinds = useKinds();
  const query = useQuery({
    queryKey: ["gear", search, "", false],
    queryFn: () => answer(api.GET("/api/gear", { params: { query: { search } } })),
    placeholderData: keepPreviousData,
  });
  const placeable = new Set(kinds.filter((k) => k.placeable).map((k) => k.kind));
  const inside = new Set(state.units.map((u) => u.id));
  const free = (query.data?.entries ?? []).filter(
    (e) => placeable.has(e.unit.kind) && !inside.has(e.unit.id),
  );
  return (
    <Panel title="Add a unit" about="from the locker into this hook-up" onClose={onClose}>
      <div className="px-4 pb-2">
        <TextInput
          autoFocus
          aria-label="Search the locker"
          placeholder="Search the locker …"
          value={words}
          onChange={(e) => setWords(e.target.value)}
        />
      </div>
      {query.isLoading && <Loading what="the locker" />}
      {query.error && <Failed error={query.error} retry={() => void query.refetch()} />}
      <div className="min-h-0 flex-1 overflow-y-auto pb-3">
        {kinds.map(({ kind, plural }) => {
          const some = free.filter((e) => e.unit.kind === kind);
          return some.length === 0 ? null : (
            <section key={kind}>
              <h3 className="px-4 pt-2 pb-1 text-[12px] font-semibold text-ink-2">{plural}</h3>
              <ul>
                {some.map(({ unit, summary }) => (
                  <li key={unit.id}>
                    <button
                      type="button"
                      onClick={() => onChoose([{ op: "add", unit: unit.id }])}
                      className="block w-full px-4 py-1.5 text-left hover:bg-shoal focus-visible:-outline-offset-2"
                    >
                      <span className="font-semibold">{unit.name}</span>
                      <span className="block text-[12px] text-ink-2">{summary}</span>
                    </button>
                  </li>
                ))}
              </ul>
            </section>
          );
        })}
        {query.data && free.length === 0 && (
          <p className="px-4 py-3 text-ink-2">
            {words
              ? "Nothing in the locker has these words."
              : "Everything in the locker is in this hook-up already."}{" "}
            <Link to="/locker" className="underline">
              Go to the Locker
            </Link>
          </p>
        )}
      </div>
    </Panel>
  );
}
