import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue, useEffect, useRef, useState } from "react";
import { answer, api, type BenchState, type Change, type Choice, type End } from "../../api/client";
import { TextInput } from "../../parts/controls";
import { VerdictMark } from "../../parts/Mark";
import { Failed, Loading } from "../../parts/states";
import { Panel } from "./Panel";
import { Way } from "./Way";

interface Props {
  state: BenchState;
  /** Changes that are held: the list is for the hook-up with them made. */
  held: Change[];
  end: End;
  onChoose: (changes: Change[]) => void;
  onClose: () => void;
}

function step(event: React.KeyboardEvent<HTMLElement>, by: number) {
  const all = [...event.currentTarget.querySelectorAll<HTMLElement>("[data-choice]")];
  all[
    Math.min(all.length - 1, Math.max(0, all.indexOf(document.activeElement as HTMLElement) + by))
  ]?.focus();
}

/** What may go into a socket, each with what would follow from it. */
export function SocketPanel({ state, held, end, onChoose, onClose }: Props) {
  const [words, setWords] = useState("");
  const search = useDeferredValue(words.toLowerCase());
  const first = useRef<HTMLButtonElement>(null);
  const unit = state.units.find((u) => u.id === end.unit);
  const view = unit?.sockets.find((s) => s.socket.id === end.socket);
  const link = state.links.find((k) => k.lead === view?.lead);
  const query = useQuery({
    queryKey: ["choices", state.id, state.saves, end.unit, end.socket, held],
    queryFn: () =>
      answer(
        api.POST("/api/hookups/{hookup_id}/choices", {
          params: { path: { hookup_id: state.id } },
          body: { end, held, between: false },
        }),
      ),
  });
  const between = useQuery({
    queryKey: ["choices", state.id, state.saves, end.unit, end.socket, held, "between"],
    queryFn: () =>
      answer(
        api.POST("/api/hookups/{hookup_id}/choices", {
          params: { path: { hookup_id: state.id } },
          body: { end, held, between: true },
        }),
      ),
    // After what may go here: that is asked for more often, and is there sooner.
    enabled: query.data !== undefined && link?.b != null,
    retry: false,
  });
  const client = useQueryClient();
  const choose = useMutation({
    mutationFn: async (choice: Choice) => {
      if (choice.needs) await answer(api.POST("/api/gear", { body: { ...choice.needs } }));
      return choice.changes;
    },
    onSuccess: (changes) => {
      void client.invalidateQueries({ queryKey: ["gear"] });
      onChoose(changes);
    },
  });
  const ready = query.data !== undefined;
  const all = [...(query.data?.choices ?? []), ...(between.data?.choices ?? [])];
  useEffect(() => {
    if (ready) first.current?.focus();
  }, [ready, end]);
  const shown = all.filter((c) => `${c.label} ${c.detail}`.toLowerCase().includes(search));
  const groups = [...new Set(shown.map((c) => c.group))];
  const many = all.length > 12;
  return (
    <Panel
      title={`${unit?.name ?? ""}, ${view?.socket.label ?? ""}`}
      about="what may go here, and what would follow"
      onClose={onClose}
      onKeyDown={(event) => {
        const by = { ArrowDown: 1, ArrowUp: -1 }[event.key];
        if (by) {
          event.preventDefault();
          step(event, by);
        }
      }}
    >
      {many && (
        <div className="px-4 pb-2">
          <TextInput
            aria-label="Narrow the list"
            placeholder="Narrow the list …"
            value={words}
            onChange={(e) => setWords(e.target.value)}
          />
        </div>
      )}
      {query.isLoading && <Loading what="what fits" />}
      {query.error && <Failed error={query.error} retry={() => void query.refetch()} />}
      {choose.error && <Failed error={choose.error} />}
      <div className="min-h-0 flex-1 overflow-y-auto pb-3">
        {link?.b && link.level !== "air" && link.summary !== "fixed lead" && (
          <Way key={link.lead} link={link} onChange={onChoose} />
        )}
        {groups.map((group) => (
          <section key={group}>
            <h3 className="px-4 pt-2 pb-1 text-[12px] font-semibold text-ink-2">{group}</h3>
            <ul>
              {shown
                .filter((c) => c.group === group)
                .map((choice: Choice) => (
                  <li key={choice.label + choice.detail + (choice.needs?.id ?? "")}>
                    <button
                      type="button"
                      data-choice
                      ref={choice === shown[0] ? first : undefined}
                      disabled={choose.isPending}
                      onClick={() => choose.mutate(choice)}
                      className="grid w-full grid-cols-[18px_1fr] gap-2 px-4 py-1.5 text-left hover:bg-shoal focus-visible:-outline-offset-2"
                    >
                      <VerdictMark severity={choice.severity} size={16} />
                      <span>
                        <span className="font-semibold">{choice.label}</span>
                        <span className="block text-[12px] text-ink-2">{choice.detail}</span>
                        <span
                          className={`block text-[12.5px] ${choice.severity === "stop" ? "text-stop" : "text-ink"}`}
                        >
                          {choice.consequence}
                        </span>
                        {choice.needs && (
                          <span className="block text-[12.5px] text-ink">
                            No such lead is free. This puts one into the locker:{" "}
                            <i>
                              {choice.needs.name}, {choice.needs.length} m typical
                            </i>
                          </span>
                        )}
                      </span>
                    </button>
                  </li>
                ))}
            </ul>
          </section>
        ))}
        {between.isFetching && <Loading what="what may be put in between" />}
        {between.error && <Failed error={between.error} retry={() => void between.refetch()} />}
        {ready && shown.length === 0 && (
          <p className="px-4 py-3 text-ink-2">
            {words
              ? "Nothing here has these words."
              : "Nothing in the hook-up or the locker fits, or no lead is free that does."}
          </p>
        )}
      </div>
    </Panel>
  );
}
