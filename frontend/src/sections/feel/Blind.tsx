import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../../api/client";
import { Button } from "../../parts/controls";
import { Failed } from "../../parts/states";
import { short } from "../../parts/table";
import type { Player } from "./usePlayer";
import type { Rendered } from "./useRender";

/** Places 0 to n−1 in an order nobody knows. */
function shuffled(n: number): number[] {
  const found = Array.from({ length: n }, (_, i) => i);
  for (let i = n - 1; i > 0; i--) {
    const j = Math.floor(Math.random() * (i + 1));
    [found[i], found[j]] = [found[j]!, found[i]!];
  }
  return found;
}

const letter = (i: number) => String.fromCharCode(65 + i);
const ROW =
  "flex w-full items-baseline gap-2 rounded-md border px-2 py-1 text-left aria-checked:border-ink aria-checked:bg-shoal aria-checked:font-semibold border-transparent hover:bg-faint";

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
  const [order, setOrder] = useState(() => shuffled(tracks.length));
  const [shown, setShown] = useState(false);
  const [pick, setPick] = useState<number>();
  const [hidden, setHidden] = useState<number>();
  const [rounds, setRounds] = useState({ right: 0, of: 0 });
  const [last, setLast] = useState("");
  const note = useMutation({
    mutationFn: (text: string) => answer(api.POST("/api/lines", { body: { text, session: null } })),
    onSuccess: () => void client.invalidateQueries({ queryKey: ["lines"] }),
  });
  /** The letter that is heard: never told of what was asked for by its name, which would give it away. */
  const [heard, setHeard] = useState<number>();
  const play = (track: number, of?: number) => {
    setHeard(of);
    if (player.isPlaying) player.hear(track);
    else player.play(track);
  };
  const ask = () => {
    const next = Math.floor(Math.random() * tracks.length);
    setHidden(next);
    setLast("");
    play(next);
  };
  const guess = (i: number) => {
    const right = i === hidden;
    setRounds({ right: rounds.right + Number(right), of: rounds.of + 1 });
    setLast(
      right
        ? `Right: it was ${tracks[i]!.name}.`
        : `It was ${tracks[hidden!]!.name}, not ${tracks[i]!.name}.`,
    );
    setHidden(undefined);
  };
  const again = () => {
    setOrder(shuffled(tracks.length));
    setShown(false);
    setPick(undefined);
    setHeard(undefined);
    note.reset();
  };
  const others = tracks.filter((_, i) => i !== (pick === undefined ? -1 : order[pick])).map((t) => t.name);
  const score = rounds.of ? `; told apart ${rounds.right} of ${rounds.of} times` : "";
  return (
    <div className="mt-2 text-[13px]">
      <h3 className="font-bold">Pick one without knowing</h3>
      <ul role="radiogroup" aria-label="Hidden takes" className="mt-1">
        {order.map((track, i) => (
          <li key={letter(i)} className="flex items-center gap-1">
            <button
              type="button"
              role="radio"
              aria-checked={heard === i}
              className={ROW}
              onClick={() => play(track, i)}
            >
              {letter(i)} {shown && <span className="truncate font-normal">{tracks[track]!.name}</span>}
              {pick === i && <span className="ml-auto text-[12px]">your pick</span>}
            </button>
            {!shown && (
              <Button
                look="quiet"
                className="shrink-0 !py-0.5"
                aria-label={`Pick ${letter(i)}`}
                onClick={() => {
                  setPick(i);
                  setShown(true);
                }}
              >
                This one
              </Button>
            )}
          </li>
        ))}
      </ul>
      {shown && pick !== undefined && (
        <div className="mt-1 flex flex-wrap gap-2">
          <Button
            disabled={note.isPending || note.isSuccess}
            onClick={() =>
              note.mutate(
                `Load feel, blind: picked ${tracks[order[pick]!]!.name} over ${others.join(", ")} (damping factor ${short(damping)}, matched in level${score}).`,
              )
            }
          >
            {note.isSuccess ? "It is in the log" : "Note it in the log"}
          </Button>
          <Button look="quiet" onClick={again}>
            Once more, shuffled
          </Button>
        </div>
      )}
      {note.error && <Failed error={note.error} />}
      <h3 className="mt-3 font-bold">Can you tell them apart?</h3>
      {hidden === undefined ? (
        <Button className="mt-1" onClick={ask}>
          Play me one of them
        </Button>
      ) : (
        <>
          <p className="text-ink-2">
            Which one was played first? Listen to the named ones as often as you like.
          </p>
          <ul aria-label="Guesses">
            <li>
              <button
                type="button"
                role="radio"
                aria-checked={false}
                className={ROW}
                onClick={() => play(hidden)}
              >
                the hidden one again
              </button>
            </li>
            {tracks.map((track, i) => (
              <li key={track.choice} className="flex items-center gap-1">
                <button type="button" className={ROW} onClick={() => play(i)}>
                  <span className="truncate">{track.name}</span>
                </button>
                <Button
                  look="quiet"
                  className="shrink-0 !py-0.5"
                  aria-label={`It is ${track.name}`}
                  onClick={() => guess(i)}
                >
                  It is this
                </Button>
              </li>
            ))}
          </ul>
        </>
      )}
      {rounds.of > 0 && (
        <p role="status" className="mt-1.5">
          {last}{" "}
          <b>
            {rounds.right} of {rounds.of} right
          </b>
          ; guessing would get about {short(Number((rounds.of / tracks.length).toPrecision(2)))}.
        </p>
      )}
    </div>
  );
}
