import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Link, useLocation, useNavigate } from "react-router";
import { answer, api } from "../../api/client";
import { Button } from "../../parts/controls";
import { Empty, Failed } from "../../parts/states";

/** A project that was just put away, with the way back. */
export function PutAway() {
  const was = useLocation().state as { id: string; name: string } | null;
  const client = useQueryClient();
  const go = useNavigate();
  const back = useMutation({
    mutationFn: (id: string) =>
      answer(api.POST("/api/plans/{plan_id}/back", { params: { path: { plan_id: id } } })),
    onSuccess: (made) => {
      client.setQueryData(["plan", made.id], made);
      void client.invalidateQueries({ queryKey: ["plans"] });
      void go(`/plan/${made.id}`);
    },
  });
  return (
    <Empty title={was ? `“${was.name}” is put away` : "Nothing was put away here"}>
      {was && <Button onClick={() => back.mutate(was.id)}>Bring it back</Button>}
      <Link className="underline" to="/plan">
        To the other projects
      </Link>
      {back.error && <Failed error={back.error} />}
    </Empty>
  );
}
