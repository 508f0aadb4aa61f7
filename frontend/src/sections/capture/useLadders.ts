import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../../api/client";

export type Ladder = Schemas["LineLadder"];
export type Rung = Schemas["Rung"];
export type Gate = Schemas["Gate"];

/** The lines of a hook-up, as it stands at its count of saves. */
export function useLadders(hookup: string, saves: number) {
  return useQuery({
    queryKey: ["capture", hookup, saves],
    queryFn: () =>
      answer(api.GET("/api/hookups/{hookup_id}/capture", { params: { path: { hookup_id: hookup } } })),
    placeholderData: keepPreviousData,
  });
}
