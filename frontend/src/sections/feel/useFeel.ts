import { useState } from "react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../../api/client";

export type FeelState = Schemas["FeelState"];
export type Feel = Schemas["Feel"];

/** On which amp, with which damping factor. */
export interface AmpOf {
  amp: string;
  damping: number;
}

/** What every load does; what was last told stays while a refused value is mended. */
export function useFeel(
  id: string,
  saves: number,
  reference: string,
  amp: Pick<AmpOf, "amp"> & Partial<AmpOf>,
) {
  const query = useQuery({
    queryKey: ["feel", id, saves, reference, amp],
    queryFn: () =>
      answer(
        api.GET("/api/hookups/{hookup_id}/feel", {
          params: { path: { hookup_id: id }, query: { reference, ...amp } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
  const [last, setLast] = useState<FeelState>();
  if (query.data && query.data !== last) setLast(query.data);
  return { error: query.error, refetch: query.refetch, data: query.data ?? last };
}
