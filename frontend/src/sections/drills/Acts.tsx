import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { answer, api, type Change, type End } from "../../api/client";
import { Failed, Loading } from "../../parts/states";
import { Panel } from "../bench/Panel";
import type { Asked } from "./useDrills";

interface Props {
  asked: Asked;
  picture: NonNullable<Asked["picture"]>;
  end: End;
  onChoose: (changes: Change[]) => void;
  onClose: () => void;
}

/** What may be done at a socket, without what would come of it. */
export function Acts({ asked, picture, end, onChoose, onClose }: Props) {
  const first = useRef<HTMLButtonElement>(null);
  const query = useQuery({
    queryKey: ["drills", "acts", asked.id, end],
    queryFn: () =>
      answer(
        api.POST("/api/drills/questions/{drill_id}/acts", {
          params: { path: { drill_id: asked.id } },
          body: { end },
        }),
      ),
    retry: false,
  });
  const ready = query.data !== undefined;
  useEffect(() => {
    if (ready) first.current?.focus();
  }, [ready, end]);
  const unit = picture.units.find((u) => u.id === end.unit);
  const socket = unit?.sockets.find((s) => s.socket.id === end.socket)?.socket;
  const acts = query.data?.acts ?? [];
  const groups = [...new Set(acts.map((act) => act.group))];
  return (
    <Panel
      title={`${unit?.name ?? ""}, ${socket?.label ?? ""}`}
      about="what may be done here"
      close="Close, back to the answer"
      onClose={onClose}
    >
      {query.isLoading && <Loading what="what may be done" />}
      {query.error && <Failed error={query.error} retry={() => void query.refetch()} />}
      <div className="min-h-0 flex-1 overflow-y-auto pb-3">
        {groups.map((group) => (
          <section key={group}>
            <h3 className="px-4 pt-2 pb-1 text-[12px] font-semibold text-ink-2">{group}</h3>
            <ul>
              {acts
                .filter((act) => act.group === group)
                .map((act) => (
                  <li key={act.label + act.detail}>
                    <button
                      type="button"
                      ref={act === acts[0] ? first : undefined}
                      onClick={() => onChoose(act.changes)}
                      className="min-h-[24px] w-full px-4 py-1 text-left hover:bg-shoal focus-visible:-outline-offset-2"
                    >
                      <span className="font-semibold">{act.label}</span>
                      <span className="block text-[12px] text-ink-2">{act.detail}</span>
                    </button>
                  </li>
                ))}
            </ul>
          </section>
        ))}
        {ready && acts.length === 0 && (
          <p className="px-4 py-3 text-ink-2">Nothing can be done at this socket.</p>
        )}
      </div>
    </Panel>
  );
}
