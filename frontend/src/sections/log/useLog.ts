import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useSearchParams } from "react-router";
import { answer, api } from "../../api/client";
import type { paths } from "../../api/generated/schema";

/** What takes are asked for: it stands in the address, so that it can be gone back to. */
export type Asked = Omit<NonNullable<paths["/api/takes"]["get"]["parameters"]["query"]>, "session"> & {
  session?: number;
  search: string;
  page: number;
};

/** Names of what narrows beside session and words, as they stand in the address. */
const NARROWS = ["hookup", "part", "verdict", "rating", "guide", "audio", "clipped"] as const;

/** The address as what is asked for, and what changes it. */
export function useAsked() {
  const [params, setParams] = useSearchParams();
  const of = (name: string) => params.get(name) ?? "";
  const asked: Asked = {
    session: Number(of("session")) || undefined,
    search: of("words"),
    audio: of("audio") === "yes",
    clipped: of("clipped") === "yes",
    hookup: of("of"),
    part: of("part"),
    verdict: of("verdict") as Asked["verdict"],
    rating: of("rating") as Asked["rating"],
    guide: of("guide") as Asked["guide"],
    page: Number(of("page")) || 1,
  };
  /** Change some of it; an empty value takes it out. Whatever narrows begins at the first page again. */
  const set = (changes: Record<string, string>) => {
    const next = new URLSearchParams(params);
    for (const [key, value] of Object.entries(changes)) {
      if (value) next.set(key, value);
      else next.delete(key);
    }
    if (!("page" in changes) && !("take" in changes) && !("day" in changes)) next.delete("page");
    setParams(next, { replace: "words" in changes, flushSync: true });
  };
  const narrowed = NARROWS.filter((name) => of(name === "hookup" ? "of" : name)).length;
  const clear = () => set(Object.fromEntries([...NARROWS, "of", "words"].map((name) => [name, ""])));
  return { params, of, asked, set, narrowed, clear };
}

export const useSessions = () =>
  useQuery({ queryKey: ["sessions"], queryFn: () => answer(api.GET("/api/sessions")) });

export function useTakes(query: Asked) {
  return useQuery({
    queryKey: ["takes", query],
    queryFn: () => answer(api.GET("/api/takes", { params: { query } })),
    placeholderData: keepPreviousData,
  });
}

/** What the log can be narrowed by, and guides that are yet to be replaced. */
export const useNarrowing = () =>
  useQuery({ queryKey: ["takes", "narrowing"], queryFn: () => answer(api.GET("/api/log/narrowing")) });

export const dayWords = (date: string) =>
  new Date(`${date}T12:00`).toLocaleDateString("en-GB", {
    weekday: "long",
    day: "numeric",
    month: "long",
    year: date.startsWith(String(new Date().getFullYear())) ? undefined : "numeric",
  });

/** The date of an instant where this is shown, as the server names days. */
export function dateOf(instant: string) {
  const at = new Date(instant);
  const two = (n: number) => String(n).padStart(2, "0");
  return `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())}`;
}
