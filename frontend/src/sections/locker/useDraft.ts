import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answer, api } from "../../api/client";
import { useSettled } from "../../parts/useSettled";
import type { Doc } from "./schema";

/** The working picture of a unit as its form stands; the last one stays while a value is refused. */
export function useBack(doc: Doc) {
  const settled = useSettled(doc, 150);
  return useQuery({
    queryKey: ["back", settled],
    queryFn: () => answer(api.POST("/api/gear/back", { body: settled ?? {} })),
    enabled: settled !== undefined,
    placeholderData: keepPreviousData,
    retry: false,
  });
}

/** What saving the form would do to the hook-ups that use the unit. */
export function useEffects(id: string | undefined, doc: Doc, dirty: boolean) {
  const settled = useSettled(doc, 500);
  return useQuery({
    queryKey: ["effects", id, settled],
    queryFn: () =>
      answer(
        api.POST("/api/gear/{gear_id}/effects", {
          params: { path: { gear_id: id ?? "" } },
          body: settled ?? {},
        }),
      ),
    enabled: id !== undefined && dirty && settled !== undefined,
    placeholderData: keepPreviousData,
    retry: false,
  });
}
