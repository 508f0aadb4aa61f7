import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answer, api } from "../../api/client";

export function useGear(search: string, kind: string, archived: boolean) {
  return useQuery({
    queryKey: ["gear", search, kind, archived],
    queryFn: () => answer(api.GET("/api/gear", { params: { query: { search, kind, archived } } })),
    placeholderData: keepPreviousData,
  });
}

/** Cabinets with a lead of their own: what may be a combo's speaker. */
export function useOwnSpeakers(): { id: string; name: string }[] {
  const { data } = useGear("", "cabinet", false);
  return (data?.entries ?? []).flatMap(({ unit }) =>
    unit.kind === "cabinet" && unit.own_lead ? [unit] : [],
  );
}
