import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../../api/client";

export type Loudness = Schemas["LoudnessState"];
export type Plan = Schemas["LevelPlan"];
export type Step = Schemas["AttenuationStep"];
export type SoundLevel = Schemas["SoundLevel"];

/** A hook-up against every place; `wanted` (dBA) at `place` is looked at and not kept. */
export function useLoudness(id: string, saves: number, place: string, wanted: number | undefined) {
  return useQuery({
    queryKey: ["loudness", id, saves, place, wanted],
    queryFn: () =>
      answer(
        api.GET("/api/hookups/{hookup_id}/loudness", {
          params: { path: { hookup_id: id }, query: { place, ...(wanted !== undefined && { wanted }) } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
}

/** A wished level: as exact as it was typed or stepped to. */
export const wished = (level: number) => `${Math.round(level * 10) / 10} dBA`;

/** A level as it is said: whole dB, for no prediction is better than that. */
export const dba = (level: number) => `${Math.round(level)} dBA`;
