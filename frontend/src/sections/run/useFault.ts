import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../../api/client";
import { tellOtherWindows } from "../../parts/elsewhere";

export type Fault = Schemas["FaultState"];
type Said = Schemas["AnswerFaultBody"]["said"];

/** A search for what is wrong, and everything that is said in it. */
export function useFault(id: number, hookup: string) {
  const client = useQueryClient();
  const key = ["fault", id];
  const path = { params: { path: { fault_id: id } } };
  const query = useQuery({
    queryKey: key,
    queryFn: () => answer(api.GET("/api/faults/{fault_id}", path)),
  });
  const onSuccess = (state: Fault) => {
    client.setQueryData(key, state);
    const related = [["faults", hookup], ["lines"], ["suspects"], ["run"], ["hookup"], ["hookups"]];
    for (const queryKey of related) void client.invalidateQueries({ queryKey });
    tellOtherWindows(key, ...related);
  };
  const shared = { scope: { id: key.join() }, onSuccess, onError: () => void query.refetch() };
  /** The count as it is when its turn comes: answers that come faster than the server's are all given. */
  const saves = () => client.getQueryData<Fault>(key)?.saves ?? 0;
  return {
    query,
    state: query.data,
    answer: useMutation({
      ...shared,
      mutationFn: ({ test, said }: { test: string; said: Said }) =>
        answer(api.POST("/api/faults/{fault_id}/answer", { ...path, body: { test, said, saves: saves() } })),
    }),
    back: useMutation({
      ...shared,
      mutationFn: () =>
        answer(api.POST("/api/faults/{fault_id}/back", { ...path, body: { saves: saves() } })),
    }),
    mended: useMutation({
      ...shared,
      mutationFn: ({ cause, gone }: { cause: string; gone: boolean }) =>
        answer(api.POST("/api/faults/{fault_id}/mended", { ...path, body: { cause, gone, saves: saves() } })),
    }),
    mistake: useMutation({
      ...shared,
      mutationFn: () =>
        answer(api.POST("/api/faults/{fault_id}/mistake", { ...path, body: { saves: saves() } })),
    }),
    giveUp: useMutation({
      ...shared,
      mutationFn: () =>
        answer(api.POST("/api/faults/{fault_id}/give-up", { ...path, body: { saves: saves() } })),
    }),
  };
}

export type FaultSearch = ReturnType<typeof useFault>;
