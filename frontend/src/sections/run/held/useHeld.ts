import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { answer, api, Refusal, soon, theseData, type RunState } from "../../../api/client";
import { useReach } from "../../../parts/live/useLive";
import { drop, heldOf, hold, sent, settle, type Held } from "./store";

export type Work = { kind: "tick"; done: boolean } | { kind: "reading"; value: number | null };

/** As many as the server takes in one go; the rest follow. */
const MOST_AT_ONCE = 200;
const OTHER_DATA = "It is of other data than the server has now.";

/** Ticks and readings of a hook-up's sheet that the server has not got: held on this device, and sent when it answers. */
export function useHeld(id: string, onSheet: (state: RunState) => void) {
  const client = useQueryClient();
  const reach = useReach();
  const key = ["held", id];
  const query = useQuery({ queryKey: key, queryFn: () => heldOf(id), staleTime: Infinity, gcTime: Infinity });
  const all = query.data ?? [];
  const held = all.filter((each) => !each.why);
  const leftOut = all.filter((each) => each.why);
  const look = () => client.invalidateQueries({ queryKey: key });

  /** Why each of these was not put in, nothing for those that were. */
  const sendAll = async (these: readonly Held[]): Promise<(each: Held) => string | undefined> => {
    try {
      const done = await answer(
        api.POST("/api/hookups/{hookup_id}/run/held", {
          params: { path: { hookup_id: id } },
          body: { held: these.map(sent) },
          signal: soon(),
        }),
      );
      onSheet(done.state);
      const why = new Map(done.left_out.map((each) => [each.key, each.why]));
      return (each) => why.get(each.key);
    } catch (error) {
      if (!(error instanceof Refusal) || error.status < 400 || error.status >= 500) throw error;
      return () => error.message;
    }
  };

  const send = async () => {
    const now = theseData();
    const mine = held.filter((each) => each.data === now).slice(0, MOST_AT_ONCE);
    const notPutIn: Held[] = held
      .filter((each) => each.data !== now)
      .map((each) => ({ ...each, why: OTHER_DATA }));
    if (mine.length) {
      const why = await sendAll(mine);
      notPutIn.push(...mine.map((each) => ({ ...each, why: why(each) })).filter((each) => each.why));
    }
    await settle(mine, notPutIn);
    await look();
  };

  // Which data the server has is known by its first answer: before it, what is held would be taken for that of others.
  const waiting = reach !== "lost" && theseData() !== null && held.length > 0;
  useEffect(() => {
    if (!waiting) return;
    let gone = false;
    // What cannot be sent now, it can be in a while: nothing of it is given up.
    const attempt = () => void send().catch(() => !gone && setTimeout(() => !gone && attempt(), 2000));
    attempt();
    return () => {
      gone = true;
    };
    // eslint-disable-next-line react-hooks/exhaustive-deps -- sent once for each time there is something to send
  }, [waiting, held.length, id]);

  return {
    held,
    leftOut,
    look,
    /** Holds what the server is about to be told, under a word of its own; whether it could. Shown once looked for. */
    keep: async (word: string, sheet: RunState, step: RunState["steps"][number]["step"], work: Work) => {
      await hold({
        ...work,
        key: word,
        step: step.id,
        words: step.text,
        quantity: step.reads?.quantity,
        revision: sheet.revision,
        round: sheet.round,
        hookup: id,
        at: Date.now(),
        data: theseData(),
      });
      return true;
    },
    /** The server has heard of it. */
    drop,
    /** They have been looked at. */
    forget: () => void settle(leftOut).then(look),
  };
}
