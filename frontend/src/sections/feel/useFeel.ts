import { useState } from "react";
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../../api/client";

export type FeelState = Schemas["FeelState"];
export type Feel = Schemas["Feel"];

/** On which amp, with which damping factor. */
export interface AmpOf {
  amp: string;
  damping: number;
}

/** Keeps what is picked for the amp, its mode and the guitar; the Bench shows it at the switch. */
export function usePick(id: string, reference: string, amp: Pick<AmpOf, "amp"> & Partial<AmpOf>) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (choice: string) =>
      answer(
        api.PUT("/api/hookups/{hookup_id}/feel/pick", {
          params: { path: { hookup_id: id } },
          body: { choice, reference, amp: amp.amp, damping: amp.damping ?? null },
        }),
      ),
    onSuccess: () => {
      for (const key of ["feel", "hookup"]) void client.invalidateQueries({ queryKey: [key] });
    },
  });
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
