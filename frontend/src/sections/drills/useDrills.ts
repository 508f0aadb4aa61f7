import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../../api/client";
import { tellOtherWindows } from "../../parts/elsewhere";

export type DrillsState = Schemas["DrillsState"];
export type Sitting = Schemas["Sitting"];
export type Asked = Schemas["Asked"];
export type Result = Schemas["Result"];
export type Answer = Schemas["DrillAnswerBody"]["answer"];

const ALL = ["drills"];
const sittingKey = (id: number) => ["drills", "sitting", id];
const questionKey = (id: number | null | undefined) => ["drills", "question", id];

export const useDrills = () =>
  useQuery({ queryKey: ["drills", "state"], queryFn: () => answer(api.GET("/api/drills")) });

export const useSitting = (id: number) =>
  useQuery({
    queryKey: sittingKey(id),
    queryFn: () =>
      answer(api.GET("/api/drills/sittings/{sitting_id}", { params: { path: { sitting_id: id } } })),
  });

export const useQuestion = (id: number | null | undefined) =>
  useQuery({
    queryKey: questionKey(id),
    queryFn: () =>
      answer(api.GET("/api/drills/questions/{drill_id}", { params: { path: { drill_id: id! } } })),
    enabled: typeof id === "number",
  });

/** What changes a sitting: each brings it as it stands then. What is refused was another window's: it is read anew. */
export function useSitDown() {
  const client = useQueryClient();
  const put = (sitting: Sitting) => {
    client.setQueryData(sittingKey(sitting.id), sitting);
    void client.invalidateQueries({ queryKey: ["drills", "state"] });
    tellOtherWindows(ALL);
  };
  const anew = () => void client.invalidateQueries({ queryKey: ALL });
  const begin = useMutation({
    mutationFn: (body: { source: string; kinds: string[] }) =>
      answer(api.POST("/api/drills/sittings", { body })),
    onSuccess: put,
  });
  const step = (path: "next" | "end") => ({
    mutationFn: (id: number) => {
      const params = { path: { sitting_id: id } };
      return answer(
        path === "next"
          ? api.POST("/api/drills/sittings/{sitting_id}/next", { params })
          : api.POST("/api/drills/sittings/{sitting_id}/end", { params }),
      );
    },
    onSuccess: put,
    onError: anew,
  });
  const next = useMutation(step("next"));
  const end = useMutation(step("end"));
  const onceMore = useMutation({
    mutationFn: (id: number) =>
      answer(api.POST("/api/drills/questions/{drill_id}/once-more", { params: { path: { drill_id: id } } })),
    onSuccess: put,
    onError: anew,
  });
  return { begin, next, end, onceMore };
}

/** What is done with one question. */
export function useAnswering(asked: Asked | undefined) {
  const client = useQueryClient();
  const params = { path: { drill_id: asked?.id ?? 0 } };
  const read = () => {
    void client.invalidateQueries({ queryKey: ALL });
    tellOtherWindows(ALL);
  };
  const hint = useMutation({
    mutationFn: () => answer(api.POST("/api/drills/questions/{drill_id}/hint", { params })),
    onSuccess: ({ hint }) =>
      client.setQueryData<Asked>(questionKey(asked?.id), (now) => now && { ...now, hint }),
  });
  const give = useMutation({
    mutationFn: (given: Answer) =>
      answer(api.POST("/api/drills/questions/{drill_id}/answer", { params, body: { answer: given } })),
    onSuccess: (result, given) => {
      client.setQueryData<Asked>(questionKey(asked?.id), (now) => now && { ...now, answer: given, result });
      read();
    },
    onError: read,
  });
  return { hint, give };
}

export function useReset() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: () => answer(api.DELETE("/api/drills")),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ALL });
      tellOtherWindows(ALL);
    },
  });
}

/** '12 s', '2 min 5 s'. */
export function time(seconds: number): string {
  const whole = Math.round(seconds);
  return whole < 90 ? `${whole} s` : `${Math.floor(whole / 60)} min ${whole % 60} s`;
}

/** "28 Nov": the day an instant lies in, here. */
export const dayOf = (at: string) =>
  new Date(at).toLocaleDateString("en-GB", { day: "numeric", month: "short" });

export const percent = (part: number) => `${Math.round(100 * part)} %`;
