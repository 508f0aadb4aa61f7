import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Command } from "cmdk";
import { useDeferredValue, useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { answer, api } from "../api/client";
import { FIELD } from "./controls";
import { currentHookup } from "./current";
import { SECTIONS } from "../sections";
import { Sheet } from "./Sheet";
import { Failed } from "./states";

const WHERE = {
  gear: "/locker/",
  hookup: "/bench/",
  take: "/log/",
  comparison: "/compare/",
  blend: "/cab/",
  mix: "/cab/mix?mix=",
  impulse: "/cab/library?impulse=",
  part: "/log?part=",
  session: "/log?session=",
  plan: "/plan/",
  planned: "/plan/",
} as const;
const NAMES = {
  gear: "Gear",
  hookup: "Hook-up",
  take: "Take",
  comparison: "Comparison",
  blend: "Blend",
  mix: "Mix",
  impulse: "Impulse response",
  part: "Part",
  session: "Session",
  plan: "Project",
  planned: "Part to record",
} as const;
const MOST_HELP = 8;

interface Hit {
  key: string;
  kind: string;
  name: string;
  detail: string;
  run: () => void;
}

const has = (text: string, words: string) =>
  words
    .toLowerCase()
    .split(/\s+/)
    .every((word) => text.toLowerCase().includes(word));

/** What opens over the work, wherever one is. */
export type Over = "preferences" | "data" | "keys";
const OVER: { id: Over; name: string; detail: string }[] = [
  {
    id: "preferences",
    name: "Preferences",
    detail: "schools of match, margin, listening and load; session name; look",
  },
  { id: "data", name: "Your data", detail: "back up, restore, copies that are kept" },
  { id: "keys", name: "Keys", detail: "what every key does" },
];

/** Screens of the hook-up that was worked on last, by what somebody in need of them would type. */
const OF_THE_HOOKUP: { at: string; name: string; detail: string }[] = [
  {
    at: "wrong",
    name: "What is wrong?",
    detail: "no sound, quiet, hum, buzz, hiss, crackle, harsh, thin, distorted, late, a smell, smoke, a fuse",
  },
  { at: "kit", name: "Kit list", detail: "what to carry and lay out; tags for leads and sockets" },
];

/** Checks, passages of the help, and the checks' rules: read once somebody looks for something. */
function useHelp(search: string) {
  const pages = useQuery({
    queryKey: ["help"],
    queryFn: () => import("../sections/help/pages"),
    enabled: search !== "",
    staleTime: Infinity,
  });
  const checks = useQuery({
    queryKey: ["checks"],
    queryFn: () => answer(api.GET("/api/checks")),
    enabled: search !== "",
    staleTime: Infinity,
  });
  if (!search) return [];
  return [
    ...(checks.data?.checks ?? [])
      .filter((check) => has(`${check.id} ${check.when}`, search))
      .map((check) => ({
        to: `/help/checks#${check.id}`,
        kind: "Check",
        name: check.id,
        detail: check.when,
      })),
    ...(pages.data?.passages(search) ?? []).map((each) => ({
      to: `/help/${each.page}#${each.id}`,
      kind: "Help",
      name: each.title,
      detail: each.of,
    })),
  ].slice(0, MOST_HELP);
}

/** Find anything by any words in it: gear, hook-ups, takes, screens, settings, checks, help. */
export function Find({ onClose, onOpen }: { onClose: () => void; onOpen: (what: Over) => void }) {
  const [words, setWords] = useState("");
  const search = useDeferredValue(words.trim());
  const go = useNavigate();
  const query = useQuery({
    queryKey: ["find", search],
    queryFn: () => answer(api.GET("/api/find", { params: { query: { search } } })),
    enabled: search !== "",
    placeholderData: keepPreviousData,
  });
  const help = useHelp(search);
  /** The server has answered for these very words: until then what is its own does not stand before what comes. */
  const settled = query.data !== undefined && !query.isPlaceholderData;
  const to = (path: string) => () => {
    onClose();
    void go(path);
  };
  const found: Hit[] = search
    ? [
        ...SECTIONS.filter((section) => settled && has(section.name, search)).map((section) => ({
          key: section.id,
          kind: "Screen",
          name: section.name,
          detail: `g ${section.key}`,
          run: to(`/${section.id}`),
        })),
        ...OF_THE_HOOKUP.filter((each) => settled && has(`${each.name} ${each.detail}`, search)).map(
          (each) => ({
            key: each.at,
            kind: "Screen",
            name: each.name,
            detail: each.detail,
            run: to(currentHookup.get() ? `/run/${currentHookup.get()}/${each.at}` : "/run"),
          }),
        ),
        ...(query.data?.found ?? []).map((hit) => ({
          key: hit.type + hit.id,
          kind: NAMES[hit.type],
          name: hit.name,
          detail: hit.detail,
          run: to(WHERE[hit.type] + hit.id),
        })),
        ...OVER.filter((each) => settled && has(`${each.name} ${each.detail}`, search)).map((each) => ({
          key: each.id,
          kind: "Setting",
          name: each.name,
          detail: each.detail,
          run: () => onOpen(each.id),
        })),
        ...(settled ? help : []).map((each) => ({ ...each, key: each.to, run: to(each.to) })),
      ]
    : [];
  const ready = settled && search === words.trim();
  /** Enter was pressed before the answer to what is typed was there: what stood first then was found by other words. */
  const waits = useRef(false);
  useEffect(() => {
    if (!waits.current || !ready) return;
    waits.current = false;
    found[0]?.run();
  });
  return (
    <Sheet open onClose={onClose} title="Find anything">
      {/* The server looks, so the list shows what it found as it found it. */}
      <Command
        label="Find anything"
        shouldFilter={false}
        loop
        onKeyDown={(event) => {
          waits.current = event.key === "Enter" && words.trim() !== "" && !ready;
          if (waits.current) event.preventDefault();
        }}
      >
        <Command.Input
          aria-label="Words to look for"
          placeholder="A name, a word from a note, a screen, a rule …"
          className={FIELD}
          value={words}
          onValueChange={setWords}
        />
        <Command.List label="Found" className="mt-2">
          {found.map((hit) => (
            <Command.Item
              key={hit.key}
              value={hit.key}
              onSelect={hit.run}
              className="flex w-full cursor-pointer items-baseline gap-3 rounded-md px-2 py-1.5 data-[selected=true]:bg-shoal"
            >
              <span className="w-16 shrink-0 text-[12px] text-ink-2">{hit.kind}</span>
              <span className="shrink-0 font-semibold">{hit.name}</span>
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
