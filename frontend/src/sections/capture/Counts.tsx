import { useMutation, useQueryClient } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../../api/client";
import { refreshed, type Report } from "./useReport";

/** Whether a take counts for how hard its amp is played, and what the others say. */
export function Counts({ report, counting }: { report: Report; counting: Schemas["Counting"] }) {
  const client = useQueryClient();
  const count = useMutation({
    mutationFn: (counts: boolean) =>
      answer(
        api.PUT("/api/takes/{take_id}/counts", {
          params: { path: { take_id: report.take.id } },
          body: { counts },
        }),
      ),
    onSuccess: () => refreshed(client),
  });
  return (
    <div className="shrink-0 border-b border-line px-4 pb-2 text-[12.5px]">
      <label className="flex min-h-[24px] items-center gap-2">
        <input
          type="checkbox"
          className="accent-[var(--deep)]"
          checked={counting.counts}
          disabled={count.isPending}
          onChange={(event) => count.mutate(event.target.checked)}
        />
        Counts for how hard this amp is played
      </label>
      <p className="text-ink-2">
        {counting.asks && <b className="font-semibold text-caution">{counting.asks} </b>}
        {counting.others ? `The others: ${counting.others}.` : "No other take says it yet."}
      </p>
      {count.error && <p className="text-stop">{count.error.message}</p>}
    </div>
  );
}
