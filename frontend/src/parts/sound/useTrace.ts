import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answer, api } from "../../api/client";

/** What a part of a take is drawn by. */
export function useTrace(take: number, audio: string, start: number, stop: number, columns: number) {
  return useQuery({
    queryKey: ["trace", take, audio, start, stop, columns],
    queryFn: () =>
      answer(
        api.GET("/api/takes/{take_id}/waveform", {
          params: { path: { take_id: take }, query: { start, stop, columns } },
        }),
      ),
    placeholderData: keepPreviousData,
    staleTime: Infinity,
  });
}
