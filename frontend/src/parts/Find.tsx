import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { useNavigate } from "react-router";
import { answer, api } from "../api/client";
import { TextInput } from "./controls";
import { Sheet } from "./Sheet";

const WHERE = { gear: "/locker/", hookup: "/bench/", take: "/log/" } as const;
const NAMES = { gear: "Gear", hookup: "Hook-up", take: "Take" } as const;

/** Find anything: gear, hook-ups, takes, by any words in them. */
export function Find({ onClose }: { onClose: () => void }) {
  const [words, setWords] = useState("");
  const [at, setAt] = useState(0);
  const search = useDeferredValue(words.trim());
  const go = useNavigate();
  const query = useQuery({
    queryKey: ["find", search],
    queryFn: () => answer(api.GET("/api/find", { params: { query: { search } } })),
    enabled: search !== "",
    placeholderData: keepPreviousData,
  });
  const found = search ? (query.data?.found ?? []) : [];
  const open = (index: number) => {
    const hit = found[index];
    if (hit) {
      onClose();
      void go(WHERE[hit.type] + hit.id);
    }
  };
  return (
    <Sheet open onClose={onClose} title="Find anything">
      <TextInput
        aria-label="Words to look for"
        placeholder="A name, a word from a note …"
        value={words}
        onChange={(event) => {
          setWords(event.target.value);
          setAt(0);
        }}
        onKeyDown={(event) => {
          if (event.key === "ArrowDown") setAt(Math.min(at + 1, found.length - 1));
          else if (event.key === "ArrowUp") setAt(Math.max(at - 1, 0));
          else if (event.key === "Enter") open(at);
          else return;
          event.preventDefault();
        }}
      />
      <ul className="mt-2">
        {found.map((hit, index) => (
          <li key={hit.type + hit.id}>
            <button
              type="button"
              onClick={() => open(index)}
              className={`flex w-full items-baseline gap-3 rounded-md px-2 py-1.5 text-left ${index === at ? "bg-shoal" : "hover:bg-faint"}`}
            >
              <span className="w-16 shrink-0 text-[12px] text-ink-2">{NAMES[hit.type]}</span>
              <span className="font-semibold">{hit.name}</span>
              <span className="truncate text-ink-2">{hit.detail}</span>
            </button>
          </li>
        ))}
      </ul>
      {search && !query.isFetching && found.length === 0 && (
        <p className="p-2 text-ink-2">Nothing has all of these words in it.</p>
      )}
    </Sheet>
  );
}
