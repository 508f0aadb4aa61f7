import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { answer, api, ownWord, Refusal, theseData, type RunState, type Schemas } from "../../../api/client";
import { useReach } from "../../../parts/live/useLive";
import { heldOf, hold, letGo, sent, type Held } from "./store";

export type LeftOut = Schemas["NotPutIn"];
type Work = { kind: "tick"; done: boolean } | { kind: "reading"; value: number | null };

const OTHER_DATA = "It is of other data than the server has now.";

const said = (held: Held) =>
  held.kind === "tick"
    ? `${held.words}: ${held.done ? "done" : "not done after all"}`
    : `${held.words}: ${held.value ?? "over range"}`;

/** Ticks and readings of a hook-up's sheet that the server has not got: held on this device, and sent when it answers. */
export function useHeld(id: string, onSheet: (state: RunState) => void) {
  const client = useQueryClient();
  const reach = useReach();
  const key = ["held", id];
  const query = useQuery({ queryKey: key, queryFn: () => heldOf(id), staleTime: Infinity, gcTime: Infinity });
  const [leftOut, setLeftOut] = useState<LeftOut[]>([]);
  const held = query.data ?? [];
  const look = () => client.invalidateQueries({ queryKey: key });

  const send = async (all: Held[]) => {
    const now = theseData();
    const [mine, others] = [all.filter((each) => each.data === now), all.filter((each) => each.data !== now)];
    const told: LeftOut[] = others.map((each) => ({ key: each.key, words: said(each), why: OTHER_DATA }));
    if (mine.length) {
      const done = await answer(
        api.POST("/api/hookups/{hookup_id}/run/held", {
          params: { path: { hookup_id: id } },
          body: { held: mine.slice(0, 200).map(sent) },
        }),
      );
      told.push(...done.left_out);
      onSheet(done.state);
    }
    await letGo([...mine.slice(0, 200), ...others].map((each) => each.key));
    setLeftOut((before) => [...before, ...told]);
    await look();
  };

  const waiting = reach !== "lost" && held.length > 0;
  useEffect(() => {
    if (!waiting) return;
    let gone = false;
    // What cannot be sent now, it can be in a while: nothing of it is given up.
    const attempt = () =>
      void send(held).catch((error: unknown) => {
        const refused = error instanceof Refusal && error.status >= 400 && error.status < 500;
        if (!gone && !refused) setTimeout(() => !gone && attempt(), 2000);
        if (refused)
          setLeftOut(held.map((each) => ({ key: each.key, words: said(each), why: error.message })));
      });
    attempt();
    return () => {
      gone = true;
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- sent once for each time there is something to send
  }, [waiting, held.length, id]);

  return {
    held,
    leftOut,
    /** Holds what the server could not be told. */
    keep: async (sheet: RunState, step: RunState["steps"][number]["step"], work: Work) => {
      await hold({
        ...work,
        key: ownWord(),
        step: step.id,
        words: step.text.slice(0, 500),
        revision: sheet.revision,
        round: sheet.round,
        hookup: id,
        at: Date.now(),
        data: theseData(),
      });
      await look();
    },
    /** They have been looked at. */
    forget: () => {
      void letGo(leftOut.map((each) => each.key)).then(look);
      setLeftOut([]);
    },
  };
}
