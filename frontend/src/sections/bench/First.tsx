import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "react-router";
import { answer, api } from "../../api/client";
import { Button } from "../../parts/controls";
import { currentHookup } from "../../parts/current";
import { Empty, Failed, Loading } from "../../parts/states";
import { FirstSteps } from "../first/FirstSteps";
import { useGear } from "../locker/gear";
import { useNewHookup } from "./HookupMenu";

/** A new hook-up with an amp in it. */
function useStartWith() {
  const client = useQueryClient();
  const go = useNavigate();
  return useMutation({
    mutationFn: async ({ id, name }: { id: string; name: string }) => {
      const made = await answer(api.POST("/api/hookups", { body: { name, hookup: null } }));
      const changes = [{ op: "add" as const, unit: id }];
      return answer(
        api.POST("/api/hookups/{hookup_id}/changes", {
          params: { path: { hookup_id: made.id } },
          body: { saves: made.saves, changes },
        }),
      );
    },
    onSuccess: (state) => {
      client.setQueryData(["hookup", state.id], state);
      void client.invalidateQueries({ queryKey: ["hookups"] });
      currentHookup.set(state.id);
      void go(`/bench/${state.id}`);
    },
  });
}

/** What to do while there is no hook-up: add gear where there is none, else begin with an amp. */
export function First() {
  const gear = useGear("", "", false);
  const make = useNewHookup();
  const start = useStartWith();
  if (gear.error) return <Failed error={gear.error} retry={() => void gear.refetch()} />;
  if (!gear.data) return <Loading what="the locker" />;
  if (gear.data.entries.length === 0) return <FirstSteps />;
  const amps = gear.data.entries.filter((e) => e.unit.kind === "amp");
  return (
    <Empty title="No hook-up yet">
      <p>A hook-up is an amp, what hangs on it, and the leads between. Begin with the amp.</p>
      <p className="flex flex-wrap justify-center gap-2">
        {amps.map(({ unit }) => (
          <Button
            key={unit.id}
            look="main"
            disabled={start.isPending}
            onClick={() => start.mutate({ id: unit.id, name: unit.name })}
          >
            Start with {unit.name}
          </Button>
        ))}
        <Button onClick={() => make.mutate("New hook-up")}>Start an empty one</Button>
      </p>
      {(make.error ?? start.error) && <Failed error={(make.error ?? start.error)!} />}
    </Empty>
  );
}
