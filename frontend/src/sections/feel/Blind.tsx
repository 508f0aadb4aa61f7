import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { answer, api, type Schemas } from "../../api/client";
import { Button } from "../../parts/controls";
import { One, OneOf } from "../../parts/OneOf";
import { Failed, Loading } from "../../parts/states";
import type { Player } from "../../parts/sound/usePlayer";
import type { Rendered } from "./useRender";

type Test = Schemas["BlindTest"];
type Step =
  { do: "begin" } | { do: "shuffle" | "ask"; test: string } | { do: "guess"; test: string; take: number };

const letter = (i: number) => String.fromCharCode(65 + i);
/** A take in a list: pressed, it is heard. */
export const TRACK =
  "flex w-full items-baseline gap-2 rounded-md border border-transparent px-2 py-1 text-left hover:bg-faint";

/** A blind test as the server keeps it: it draws, and it counts. */
function useBlindTest(names: string[]) {
  const step = useMutation({
    mutationFn: (what: Step): Promise<Test> => {
      if (what.do === "begin") return answer(api.POST("/api/feel/blind", { body: { names } }));
      const params = { path: { test_id: what.test } };
      if (what.do === "guess")
        return answer(api.POST("/api/feel/blind/{test_id}/guess", { params, body: { take: what.take } }));
      return answer(api.POST(`/api/feel/blind/{test_id}/${what.do}`, { params }));
    },
  });
  const [test, setTest] = useState<Test>();
  const { mutateAsync } = step;
  /** One step; what went wrong with it is told by `error`. */
  const go = async (what: Step) => {
    const next = await mutateAsync(what).catch(() => undefined);
    if (next) setTest(next);
    return next;
  };
  useEffect(() => {
    void mutateAsync({ do: "begin" }).then(setTest, () => undefined);
  }, [mutateAsync]);
  return { test, go, error: step.error };
}

/** The same tracks without their names: pick one, or tell which is which; with a score, and a note in the log. */
export function Blind({
  rendered,
  player,
  damping,
}: {
  rendered: Rendered;
  player: Player;
  damping: number;
}) {
  const { tracks } = rendered;
  const client = useQueryClient();
  const { test, go, error } = useBlindTest(tracks.map((track) => track.name));
  const [pick, setPick] = useState<number>();
  const shown = pick !== undefined;
  const note = useMutation({
    mutationFn: (place: number) =>
      answer(
        api.POST("/api/feel/blind/{test_id}/note", {
          params: { path: { test_id: test?.id ?? "" } },
          body: { letter: place, damping },
        }),
      ),
    onSuccess: () => void client.invalidateQueries({ queryKey: ["lines"] }),
  });
  /** The letter that is heard: never told of what was asked for by its name, which would give it away. */
  const [heard, setHeard] = useState<number>();
  const play = (track: number, of?: number) => {
    setHeard(of);
    if (player.isPlaying) player.hear(track);
    else player.play(track);
  };
  if (!test) return error ? <Failed error={error} /> : <Loading what="the draw" />;
  const ask = async () => {
    const asked = await go({ do: "ask", test: test.id });
    if (asked?.hidden != null) play(asked.hidden);
  };
  const again = async () => {
    if (!(await go({ do: "shuffle", test: test.id }))) return;
    setPick(undefined);
    setHeard(undefined);
    note.reset();
  };
  const { hidden } = test;
  return (
    <div className="mt-2 text-[13px]">
      <h3 className="font-bold">Pick one without knowing</h3>
      <OneOf
        label="Hidden takes"
        value={String(heard ?? "")}
        onValue={() => undefined}
        className="mt-1 block"
      >
        {test.order.map((track, i) => (
          <div key={letter(i)} className="flex items-center gap-1">
            <One
              value={String(i)}
              className={`${TRACK} aria-checked:border-ink aria-checked:bg-shoal aria-checked:font-semibold`}
              onClick={() => play(track, i)}
            >
              {letter(i)} {shown && <span className="truncate font-normal">{tracks[track]!.name}</span>}
              {pick === i && <span className="ml-auto text-[12px]">your pick</span>}
            </One>
            {!shown && (
              <Button
                look="quiet"
                className="shrink-0 !py-0.5"
                aria-label={`Pick ${letter(i)}`}
                onClick={() => setPick(i)}
              >
                This one
              </Button>
            )}
          </div>
        ))}
      </OneOf>
      {shown && (
        <div className="mt-1 flex flex-wrap gap-2">
          <Button disabled={note.isPending || note.isSuccess} onClick={() => note.mutate(pick)}>
            {note.isSuccess ? "It is in the log" : "Note it in the log"}
          </Button>
          <Button look="quiet" onClick={() => void again()}>
            Once more, shuffled
          </Button>
        </div>
      )}
      {note.error && <Failed error={note.error} />}
      <h3 className="mt-3 font-bold">Can you tell them apart?</h3>
      {hidden == null ? (
        <Button className="mt-1" onClick={() => void ask()}>
          Play me one of them
        </Button>
      ) : (
        <>
          <p className="text-ink-2">
            Which one was played first? Listen to the named ones as often as you like.
          </p>
          <ul aria-label="Guesses">
            <li>
              <button type="button" className={TRACK} onClick={() => play(hidden)}>
                the hidden one again
              </button>
            </li>
            {tracks.map((track, i) => (
              <li key={track.choice} className="flex items-center gap-1">
                <button type="button" className={TRACK} onClick={() => play(i)}>
                  <span className="truncate">{track.name}</span>
                </button>
                <Button
                  look="quiet"
                  className="shrink-0 !py-0.5"
                  aria-label={`It is ${track.name}`}
                  onClick={() => void go({ do: "guess", test: test.id, take: i })}
                >
                  It is this
                </Button>
              </li>
            ))}
          </ul>
        </>
      )}
      {test.score && (
        <p role="status" className="mt-1.5">
          {test.said} <b>{test.score}</b>
        </p>
      )}
      {error && <Failed error={error} />}
    </div>
  );
}
