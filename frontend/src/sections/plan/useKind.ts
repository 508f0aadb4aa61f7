import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../../api/client";

/** What the locker has of a kind: places, rooms. */
export function useKind(kind: "place" | "room") {
  const { data } = useQuery({
    queryKey: ["gear", "", kind],
    queryFn: () => answer(api.GET("/api/gear", { params: { query: { kind } } })),
  });
  return (data?.entries ?? []).map(({ unit }) => ({ id: unit.id, name: unit.name }));
}
