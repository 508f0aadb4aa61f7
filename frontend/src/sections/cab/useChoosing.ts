import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { answer, api } from "../../api/client";
import { tellOtherWindows } from "../../parts/elsewhere";
import { TIMERS } from "../../parts/useTimers";

const MOST_MIN = 20;
const ASKED_AGAIN_MS = 20_000;
const STORE = "low-tide-heard-of-";

/** How long one has been choosing by the server's clock, and how many blends were heard: few, named options, and an
 * end. */
export function useChoosing(blend: number) {
  const client = useQueryClient();
  const store = `${STORE}${blend}`;
  const [tried, setTried] = useState(() => Number(sessionStorage.getItem(store) ?? 0));
  useEffect(() => sessionStorage.setItem(store, String(tried)), [store, tried]);
  const query = useQuery({
    queryKey: [...TIMERS, "choosing"],
    queryFn: () => answer(api.GET("/api/timers")),
    refetchInterval: ASKED_AGAIN_MS,
  });
  const mine = query.data?.timers.find((t) => t.kind === "choosing" && t.about === String(blend));
  const onSettled = () => {
    void client.invalidateQueries({ queryKey: TIMERS });
    tellOtherWindows(TIMERS);
  };
  const begin = useMutation({
    mutationFn: () => answer(api.POST("/api/timers/choosing", { body: { blend } })),
    onSettled,
  });
  const end = useMutation({
    mutationFn: (timer: number) =>
      answer(api.DELETE("/api/timers/{timer_id}", { params: { path: { timer_id: timer } } })),
    onSettled,
  });
  const left = mine?.left ?? 60 * MOST_MIN;
  const minutes = Math.max(0, Math.floor(MOST_MIN - left / 60));
  const over = mine !== undefined && left <= 0;
  return {
    tried,
    over,
    words:
      tried === 0
        ? `${MOST_MIN} min are a good bound for choosing.`
        : `${minutes} min of choosing, ${tried} heard${over ? ": take one, and go on" : ""}.`,
    count: () => {
      setTried((n) => n + 1);
      if (!mine && !begin.isPending) begin.mutate();
    },
    done: () => {
      setTried(0);
      if (mine) end.mutate(mine.id);
    },
  };
}
