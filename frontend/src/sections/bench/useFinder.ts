import { useCallback, useEffect, useRef, useState } from "react";
import { useQuery } from "@tanstack/react-query";
import { answer, api, OFFLINE, Refusal, type Schemas } from "../../api/client";
import { readLines } from "../../parts/ndjson";

export type Wish = Schemas["Wish"];
export type Answer = Schemas["Answer"];
type Line = Schemas["FindLine"];

/** What is wished for at first. */
export const WISH: Wish = {
  goal: "silent",
  down_db: 12,
  down_said: "",
  line: true,
  amp: "",
  cabinet: "",
  most_price: null,
  most_weight: null,
};

/** What can be wished for. */
export function useGoals(): Schemas["GoalInfo"][] {
  const { data } = useQuery({
    queryKey: ["goals"],
    queryFn: () => answer(api.GET("/api/goals")),
    staleTime: Infinity,
  });
  return data?.goals ?? [];
}

/** A search for hook-ups: its progress line by line, its answer, and a way to stop it. */
export function useFinder() {
  const [progress, setProgress] = useState<Schemas["Progress"]>();
  const [found, setFound] = useState<Answer>();
  const [error, setError] = useState<Error>();
  const [running, setRunning] = useState(false);
  const abort = useRef<AbortController>(undefined);
  useEffect(() => () => abort.current?.abort(), []);

  const start = useCallback(async (wish: Wish, now: string) => {
    abort.current?.abort();
    const control = new AbortController();
    abort.current = control;
    setRunning(true);
    setError(undefined);
    setFound(undefined);
    setProgress(undefined);
    try {
      await readLines<Line>(
        "/api/hookups/find",
        { wish, now },
        control.signal,
        ({ progress: step, answer }) => {
          if (step) setProgress(step);
          if (answer) setFound(answer);
        },
      );
    } catch (problem) {
      if (!control.signal.aborted) setError(problem instanceof Refusal ? problem : OFFLINE);
    } finally {
      if (abort.current === control) setRunning(false);
    }
  }, []);
  const stop = useCallback(() => {
    abort.current?.abort();
    setRunning(false);
  }, []);
  return { start, stop, running, progress, found, error };
}
