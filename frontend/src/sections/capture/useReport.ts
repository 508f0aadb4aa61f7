import { useMutation, useQuery, useQueryClient, type QueryClient } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../../api/client";
import { readLines } from "../../parts/ndjson";
import { useState } from "react";

export type Report = Schemas["TakeReport"];

/** A take came, went or counts otherwise: what is predicted by takes may be another. */
export function refreshed(client: QueryClient) {
  for (const key of ["takes", "take", "sessions", "report", "hookup", "hookups", "capture"])
    void client.invalidateQueries({ queryKey: [key] });
}

/** Takes of a hook-up that have a recording, newest first. */
export function useTakes(hookup: string) {
  return useQuery({
    queryKey: ["takes", "of", hookup],
    queryFn: () => answer(api.GET("/api/takes", { params: { query: { hookup, audio: true } } })),
  });
}

/** What a take's recording says; `saves` of the hook-up, since advice is told against it as it stands. */
export function useReport(take: number | undefined, saves: number) {
  return useQuery({
    queryKey: ["report", take, saves],
    queryFn: () => answer(api.GET("/api/takes/{take_id}/report", { params: { path: { take_id: take! } } })),
    enabled: take !== undefined,
    placeholderData: (before) => (before?.take.id === take ? before : undefined),
  });
}

/** Inspects a recording that came from an older program. */
export function useInspect(take: number | undefined) {
  const client = useQueryClient();
  const [part, setPart] = useState(0);
  const inspect = useMutation({
    mutationFn: async () => {
      setPart(0);
      await readLines<Schemas["ReportLine"]>(
        `/api/takes/${take}/inspection`,
        {},
        new AbortController().signal,
        (line) => typeof line.part === "number" && setPart(line.part),
      );
    },
    onSuccess: () => void client.invalidateQueries({ queryKey: ["report"] }),
  });
  return { part, inspect };
}
