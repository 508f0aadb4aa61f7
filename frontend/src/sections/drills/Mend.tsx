import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Change, type End } from "../../api/client";
import { Button, Key } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { Failed, Loading } from "../../parts/states";
import { Acts } from "./Acts";
import { Frame } from "./Frame";
import { OnPicture } from "./OnPicture";
import type { Asking } from "./Question";

/** The picture with changes put on, and what they are in words. */
export function useTried(id: number, changes: Change[]) {
  return useQuery({
    queryKey: ["drills", "tried", id, changes],
    queryFn: () =>
      answer(
        api.POST("/api/drills/questions/{drill_id}/picture", {
          params: { path: { drill_id: id } },
          body: { changes },
        }),
      ),
    enabled: changes.length > 0,
    placeholderData: (before) => before,
    retry: false,
  });
}

/** Mend a hook-up with one change of one hand: a control, a plug, a lead, a unit. */
export function Mend({ asked, onAnswer, isBusy, told }: Asking) {
  const [put, setPut] = useState<Change[]>([]);
  const [end, setEnd] = useState<End>();
  const tried = useTried(asked.id, put);
  const open = !asked.result;
  const picture = put.length && tried.data ? tried.data : asked.picture!;
  const change = (changes: Change[]) => {
    if (!open) return;
    setPut(changes);
    setEnd(undefined);
  };
  useKeys({ u: () => change([]), Escape: () => (end ? setEnd(undefined) : false) }, open);
  return (
    <Frame
      picture={
        <OnPicture
          picture={picture}
          lit={open ? [] : (asked.result?.at ?? [])}
          still={!open}
          selected={end}
          onSelect={(at) => open && setEnd(at)}
          onChange={change}
        />
      }
      told={told}
    >
      {end ? (
        <Acts
          asked={asked}
          picture={asked.picture!}
          end={end}
          onClose={() => setEnd(undefined)}
          onChoose={change}
        />
      ) : (
        <div className="flex flex-1 flex-col gap-3 overflow-y-auto p-4">
          <p className="text-ink-2">
            Move a control, press a socket for what may be done there, or take a unit out. Another change
            takes the place of the one before. What played or was recorded must still do so.
          </p>
          {tried.error && <Failed error={tried.error} />}
          {put.length > 0 && !tried.data && !tried.error && <Loading what="the hook-up with it" />}
          {put.length > 0 && tried.data && (
            <div className="rounded-md border border-line p-3">
              <h3 className="font-bold">Your change</h3>
              <ul className="mt-1">
                {tried.data.did.map((each, n) => (
                  <li key={n}>{each}</li>
                ))}
              </ul>
              <Button look="quiet" className="mt-2" onClick={() => change([])}>
                Take it back <Key>u</Key>
              </Button>
            </div>
          )}
          <div className="mt-auto">
            <Button
              look="main"
              disabled={put.length === 0 || Boolean(tried.error) || isBusy}
              onClick={() => onAnswer({ by: "changes", changes: put })}
            >
              {put.length ? "This makes it sound" : "Change something first"}
            </Button>
          </div>
        </div>
      )}
    </Frame>
  );
}
