import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answer, api } from "../../api/client";
import { Button } from "../../parts/controls";
import { tellOtherWindows } from "../../parts/elsewhere";
import { ForAll } from "../../parts/sharing/ForAll";
import { Failed } from "../../parts/states";
import type { Fault } from "./useFault";

type Suspicion = Fault["now"]["left"][number];

/** What mends a cause, put on the hook-up where it is a change to it; then: is it gone? */
export function Remedy({
  suspicion,
  hookup,
  onGone,
  onClose,
}: {
  suspicion: Suspicion;
  hookup: string;
  onGone: (gone: boolean) => void;
  onClose: () => void;
}) {
  const client = useQueryClient();
  const key = ["hookup", hookup];
  const path = { params: { path: { hookup_id: hookup } } };
  const bench = useQuery({
    queryKey: key,
    queryFn: () => answer(api.GET("/api/hookups/{hookup_id}", path)),
  });
  const put = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/hookups/{hookup_id}/changes", {
          ...path,
          body: { saves: bench.data!.saves, changes: suspicion.fix!.changes },
        }),
      ),
    onSuccess: (state) => {
      client.setQueryData(key, state);
      const related = [["run", hookup], ["hookups"], ["fault"]];
      for (const queryKey of related) void client.invalidateQueries({ queryKey });
      tellOtherWindows(key, ...related);
    },
  });
  return (
    <div>
      <p className="text-[16px] text-ink-2">{suspicion.name}</p>
      <h3 className="mt-1 max-w-[34ch] text-[clamp(24px,3vw,40px)] leading-[1.18] font-bold">
        {suspicion.remedy}
      </h3>
      {suspicion.off_first && (
        <p className="mt-3 text-[19px] font-semibold text-caution">
          Amp off and dark before anything on its speaker side is moved.
        </p>
      )}
      {suspicion.technician && (
        <p className="mt-3 text-[17px]">Nobody but a qualified technician opens the case.</p>
      )}
      {suspicion.fix && (
        <ForAll
          otherwise={<p className="mt-4 text-[17px]">At the desk, on the Bench: {suspicion.fix.label}.</p>}
        >
          <p className="mt-4 flex flex-wrap items-center gap-3">
            <Button disabled={!bench.data || put.isPending || put.isSuccess} onClick={() => put.mutate()}>
              {put.isSuccess ? "On the hook-up" : `On the hook-up: ${suspicion.fix.label}`}
            </Button>
            {put.isSuccess && <span className="text-ink-2">Undone on the Bench with u.</span>}
          </p>
        </ForAll>
      )}
      {put.error && <Failed error={put.error} />}
      <p className="mt-6 text-[21px] font-bold">Is it gone?</p>
      <p className="mt-2 flex flex-wrap gap-2.5">
        <Button look="main" className="!min-h-[52px] !px-7 !text-[20px]" onClick={() => onGone(true)}>
          It is gone
        </Button>
        <Button className="!min-h-[52px] !px-7 !text-[20px]" onClick={() => onGone(false)}>
          Still there
        </Button>
        <Button look="quiet" onClick={onClose}>
          Not tried yet
        </Button>
      </p>
    </div>
  );
}
