import { useQuery } from "@tanstack/react-query";
import { createContext, useContext } from "react";
import { answer, api, type Change } from "../../api/client";
import { VerdictMark } from "../../parts/Mark";

/** What an outcome is worked out from: the hook-up as it stands, and the changes that are held. */
export const Standing = createContext<{ hookup: string; saves: number; held: Change[] }>({
  hookup: "",
  saves: 0,
  held: [],
});

/** What changes would lead to, worked out before they are made. */
export function Outcome({ changes, className = "" }: { changes: Change[]; className?: string }) {
  const { hookup, saves, held } = useContext(Standing);
  const query = useQuery({
    queryKey: ["preview", hookup, saves, held, changes],
    queryFn: () =>
      answer(
        api.POST("/api/hookups/{hookup_id}/preview", {
          params: { path: { hookup_id: hookup } },
          body: { changes, held },
        }),
      ),
    // Where nothing stands on a bench, nothing is said beforehand.
    enabled: hookup !== "",
    staleTime: Infinity,
    retry: false,
  });
  return (
    <p className={`flex min-h-[18px] items-center gap-1.5 text-[12px] text-ink-2 ${className}`}>
      {query.data && (
        <>
          <VerdictMark severity={query.data.severity} size={13} /> {query.data.text}
        </>
      )}
    </p>
  );
}
