import { useQuery } from "@tanstack/react-query";
import { answer, api, type KindInfo } from "../../api/client";

/** The kinds of gear, with the schema each one's form is drawn from. They do not change while the page is open. */
export function useKinds(): KindInfo[] {
  const query = useQuery({
    queryKey: ["kinds"],
    queryFn: () => answer(api.GET("/api/kinds")),
    staleTime: Infinity,
  });
  return query.data?.kinds ?? [];
}
