import { useCallback, useEffect, useRef, useState } from "react";
import { OFFLINE, Refusal, type Schemas } from "../../../api/client";
import { Button, Key } from "../../../parts/controls";
import { useKeys } from "../../../parts/keys";
import { readLines } from "../../../parts/ndjson";
import { Part } from "../../../parts/Part";
import { Failed } from "../../../parts/states";

type Speaker = Schemas["RankedSpeaker"];

/** The short list and the blends by how they are heard in a mix, what is heard in most bands first. */
export function Rank({
  mix,
  blend,
  onTake,
}: {
  mix: { id: number; saves: number };
  blend: number;
  onTake: (speaker: Speaker) => void;
}) {
  const [part, setPart] = useState<number>();
  const [found, setFound] = useState<{ ranking: Schemas["Ranking"]; saves: number }>();
  const [error, setError] = useState<Refusal>();
  const abort = useRef<AbortController>(undefined);
  const stop = useCallback(() => {
    abort.current?.abort();
    setPart(undefined);
  }, []);
  useEffect(() => () => abort.current?.abort(), []);
  const rank = async () => {
    stop();
    const mine = new AbortController();
    abort.current = mine;
    setError(undefined);
    setPart(0);
    try {
      await readLines<Schemas["RankingLine"]>(`/api/mixes/${mix.id}/rank`, {}, mine.signal, (line) => {
        if (typeof line.part === "number") setPart(line.part);
        if (line.ranking) setFound({ ranking: line.ranking, saves: mix.saves });
      });
    } catch (why) {
      if (!mine.signal.aborted) setError(why instanceof Refusal ? why : OFFLINE);
    }
    if (!mine.signal.aborted) setPart(undefined);
  };
  useKeys({ "1": () => void rank() });
  const { speakers = [], left_out: leftOut = [], of = 0 } = found?.ranking ?? {};
  return (
    <section aria-label="The short list, ranked" className="border-b border-line px-4 py-2.5 text-[12.5px]">
      {part === undefined ? (
        <Button onClick={() => void rank()}>
          Rank the short list <Key>1</Key>
        </Button>
      ) : (
        <Part what="Tried" part={part} onStop={stop} />
      )}
      {error && <Failed error={error} />}
      {found && (
        <p className="mt-1.5 text-ink-2">
          Each impulse response of it alone, and each blend, all as loud; what comes through, not what sounds
          best.
        </p>
      )}
      {found && found.saves !== mix.saves && (
        <p role="status" className="mt-1 font-medium text-caution">
          The mix was changed since: rank it again.
        </p>
      )}
      <ol aria-label="Speakers by how they are heard" className="mt-1">
        {speakers.map((each) => (
          <li
            key={`${each.kind} ${each.id}`}
            className="flex items-center gap-2 border-t border-line py-1 first:border-t-0"
            title={each.words}
          >
            <span className="w-[56px] shrink-0 font-bold">
              {each.heard} of {of}
            </span>
            <span className="min-w-0 flex-1 leading-tight">
              {each.kind === "blend" ? `“${each.name}”` : each.name}
            </span>
            {each.kind === "blend" && each.id === blend ? (
              <span className="text-ink-2">it is on</span>
            ) : (
              <Button
                className="min-h-[24px] !px-1.5 !py-0 !text-[12.5px]"
                aria-label={`${each.kind === "blend" ? "Open" : "Put on"} ${each.name}`}
                onClick={() => onTake(each)}
              >
                {each.kind === "blend" ? "Open" : "Put on"}
              </Button>
            )}
          </li>
        ))}
      </ol>
      {leftOut.map((why) => (
        <p key={why} className="mt-1 text-caution">
          Left out: {why}
        </p>
      ))}
    </section>
  );
}
