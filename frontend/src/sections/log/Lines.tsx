import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Trash2 } from "lucide-react";
import { useState } from "react";
import { answer, api } from "../../api/client";
import { Button, TextInput } from "../../parts/controls";
import { Confirm } from "../../parts/Confirm";
import { Failed } from "../../parts/states";
import { NeighbourForm, Proposals } from "./Neighbours";

/** Lines of the log that belong to no take: what was picked, what was noticed. */
export function Lines({ session }: { session?: number }) {
  const [text, setText] = useState("");
  const [doomed, setDoomed] = useState<number>();
  const client = useQueryClient();
  const query = useQuery({
    queryKey: ["lines", session],
    queryFn: () => answer(api.GET("/api/lines", { params: { query: { session } } })),
  });
  const stale = () => void client.invalidateQueries({ queryKey: ["lines"] });
  const write = useMutation({
    mutationFn: () => answer(api.POST("/api/lines", { body: { text, session: session ?? null } })),
    onSuccess: () => {
      setText("");
      stale();
    },
  });
  const remove = useMutation({
    mutationFn: (id: number) =>
      answer(api.DELETE("/api/lines/{line_id}", { params: { path: { line_id: id } } })),
    onSuccess: stale,
  });
  const lines = query.data?.lines ?? [];
  const [telling, setTelling] = useState(false);
  const error = query.error ?? write.error ?? remove.error;
  return (
    <section aria-label="Lines" className="shrink-0 border-t border-line px-4 py-2">
      <Proposals />
      {lines.length > 0 && (
        <ul className="mb-1.5 max-h-[120px] overflow-y-auto text-[13px]">
          {lines.map((line) => (
            <li key={line.id} className="flex items-baseline gap-2 py-0.5">
              <span className="shrink-0 text-[12px] text-ink-2">
                {new Date(line.at).toLocaleString("en-GB", {
                  day: "numeric",
                  month: "short",
                  hour: "2-digit",
                  minute: "2-digit",
                })}
              </span>
              <span className="min-w-0 flex-1">{line.text}</span>
              <Button
                look="quiet"
                className="shrink-0 !px-1 !py-0"
                aria-label="Delete this note"
                onClick={() => setDoomed(line.id)}
              >
                <Trash2 size={13} />
              </Button>
            </li>
          ))}
        </ul>
      )}
      <form
        className="flex gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          write.mutate();
        }}
      >
        <TextInput
          aria-label="A note for the log"
          placeholder="A note that belongs to no take …"
          maxLength={1000}
          value={text}
          onChange={(e) => setText(e.target.value)}
        />
        <Button type="submit" className="shrink-0" disabled={!text.trim() || write.isPending}>
          Note it
        </Button>
        <Button className="shrink-0" onClick={() => setTelling(true)}>
          A neighbour said …
        </Button>
      </form>
      {error && <Failed error={error} />}
      {telling && <NeighbourForm session={session} onClose={() => setTelling(false)} />}
      <Confirm
        open={doomed !== undefined}
        title="Delete this note?"
        yes="Delete it"
        onClose={() => setDoomed(undefined)}
        onYes={() => doomed !== undefined && remove.mutate(doomed)}
      >
        It leaves the log for good.
      </Confirm>
    </section>
  );
}
