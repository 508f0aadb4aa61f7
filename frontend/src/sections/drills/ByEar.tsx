import { useMemo } from "react";
import { Button, Key } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { usePlayer } from "../../parts/sound/usePlayer";
import { Failed, Loading } from "../../parts/states";
import type { Asking } from "./Question";

const LETTERS = ["a", "b"] as const;

/** Two sounds beside each other: one changes over while they play, and says which it is. */
export function ByEar({ asked, onAnswer, isBusy, told }: Asking) {
  const files = useMemo(
    () => LETTERS.map((letter) => `/api/drills/questions/${asked.id}/sounds/${letter}`),
    [asked.id],
  );
  const player = usePlayer(files);
  const open = !asked.result && !isBusy;
  const hear = (n: number) => (player.isPlaying ? player.hear(n) : player.play(n));
  useKeys({
    a: () => player.ready && hear(0),
    b: () => player.ready && hear(1),
    " ": () => player.ready && (player.isPlaying ? player.stop() : player.play()),
  });
  useKeys(
    {
      "1": () => onAnswer({ by: "letter", letter: "a" }),
      "2": () => onAnswer({ by: "letter", letter: "b" }),
    },
    open && player.ready,
  );
  if (player.failed) return <Failed error={undefined} />;
  if (!player.ready) return <Loading what="the two sounds" />;
  return (
    <div className="mx-auto flex w-full max-w-[760px] flex-col gap-5 p-6">
      <div className="grid grid-cols-2 gap-4" role="group" aria-label="Sounds">
        {LETTERS.map((letter, n) => {
          const heard = player.isPlaying && player.at === n;
          return (
            <button
              key={letter}
              type="button"
              aria-pressed={heard}
              onClick={() => hear(n)}
              className={`flex h-[120px] flex-col items-center justify-center gap-1 rounded-lg border-[1.5px] bg-sheet hover:border-ink ${heard ? "border-ink" : "border-line"}`}
            >
              <b className="text-[34px] leading-none">{letter.toUpperCase()}</b>
              <span className="flex items-center gap-1.5 text-[13px] text-ink-2">
                {heard ? "playing" : "listen"} <Key>{letter}</Key>
              </span>
            </button>
          );
        })}
      </div>
      <div className="flex items-center gap-3">
        <div aria-hidden className="h-[6px] flex-1 overflow-hidden rounded-full bg-faint">
          <div
            className="h-full bg-deep"
            style={{ width: `${player.length ? (100 * player.place) / player.length : 0}%` }}
          />
        </div>
        <Button look="quiet" onClick={() => (player.isPlaying ? player.stop() : player.play())}>
          {player.isPlaying ? "Stop" : "Play"} <Key>space</Key>
        </Button>
      </div>
      {told ?? (
        <div className="flex items-center gap-2">
          <Button look="main" disabled={!open} onClick={() => onAnswer({ by: "letter", letter: "a" })}>
            It is A <Key>1</Key>
          </Button>
          <Button look="main" disabled={!open} onClick={() => onAnswer({ by: "letter", letter: "b" })}>
            It is B <Key>2</Key>
          </Button>
        </div>
      )}
      {!told && (
        <p className="text-[12.5px] text-ink-2">
          Made by formulas, not recorded. Begin softly and turn up by hand: loudness tires the ear first.
        </p>
      )}
    </div>
  );
}
