import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Command } from "cmdk";
import { useDeferredValue, useState } from "react";
import { useNavigate } from "react-router";
import { answer, api } from "../api/client";
import { FIELD } from "./controls";
import { Sheet } from "./Sheet";
import { Failed } from "./states";

const WHERE = { gear: "/locker/", hookup: "/bench/", take: "/log/" } as const;
const NAMES = { gear: "Gear", hookup: "Hook-up", take: "Take" } as const;

/** Find anything: gear, hook-ups, takes, by any words in them. */
export function Find({ onClose }: { onClose: () => void }) {
  const [words, setWords] = useState("");
  const search = useDeferredValue(words.trim());
  const go = useNavigate();
  const query = useQuery({
    queryKey: ["find", search],
    queryFn: () => answer(api.GET("/api/find", { params: { query: { search } } })),
    enabled: search !== "",
    placeholderData: keepPreviousData,
  });
  const found = search ? (query.data?.found ?? []) : [];
  return (
    <Sheet open onClose={onClose} title="Find anything">
      {/* The server looks, so the list shows what it found as it found it. */}
      <Command label="Find anything" shouldFilter={false} loop>
        <Command.Input
          aria-label="Words to look for"
          placeholder="A name, a word from a note …"
          className={FIELD}
          value={words}
          onValueChange={setWords}
        />
        <Command.List label="Found" className="mt-2">
          {found.map((hit) => (
            <Command.Item
              key={hit.type + hit.id}
              value={hit.type + hit.id}
              onSelect={() => {
                onClose();
                void go(WHERE[hit.type] + hit.id);
              }}
              className="flex w-full cursor-pointer items-baseline gap-3 rounded-md px-2 py-1.5 data-[selected=true]:bg-shoal"
            >
              <span className="w-16 shrink-0 text-[12px] text-ink-2">{NAMES[hit.type]}</span>
              <span className="font-semibold">{hit.name}</span>
              <span className="truncate text-ink-2">{hit.detail}</span>
            </Command.Item>
          ))}
        </Command.List>
      </Command>
      {query.error && <Failed error={query.error} />}
      {search && !query.isFetching && !query.error && found.length === 0 && (
        <p className="p-2 text-ink-2">Nothing has all of these words in it.</p>
      )}
    </Sheet>
  );
}
