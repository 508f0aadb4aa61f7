import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";
import { answer, api, type BenchState } from "../../api/client";
import { Button } from "../../parts/controls";
import { Empty, Failed } from "../../parts/states";

/** Nobody listens anywhere yet: a typical room and a place in it are one press away. */
export function NoPlace({ state }: { state: BenchState }) {
  const client = useQueryClient();
  const begin = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/hookups/{hookup_id}/listen-here", {
          params: { path: { hookup_id: state.id } },
          body: { saves: state.saves },
        }),
      ),
    onSuccess: (next) => {
      client.setQueryData(["hookup", state.id], next);
      for (const key of ["gear", "loudness", "hookups"]) void client.invalidateQueries({ queryKey: [key] });
    },
  });
  return (
    <Empty title="No place to listen at yet">
      <p>
        How loud it gets depends on the room and on who listens where. Begin with a typical room that
        everything stands in and a place in it, and correct them in the Locker; partitions and the neighbours’
        limits come next.
      </p>
      <Button look="main" disabled={begin.isPending} onClick={() => begin.mutate()}>
        Begin with my room
      </Button>
      <Link to="/locker?kind=place" className="min-h-[24px] text-deep underline">
        Put places into the Locker
      </Link>
      {begin.error && <Failed error={begin.error} />}
    </Empty>
  );
}
