import { useEffect, useRef, useState } from "react";
import { OFFLINE, Refusal, type Schemas } from "../../api/client";
import { Button } from "../../parts/controls";
import { readLines } from "../../parts/ndjson";
import { Part } from "../../parts/Part";
import { Sheet } from "../../parts/Sheet";
import { Failed } from "../../parts/states";
import { fixed } from "../../parts/table";
import type { BlendPart } from "./useBlend";

type Suggestions = Schemas["Suggestions"];

/** Blends of the short list that come nearest to the reference: tried, ranked, and put on with one press. */
export function Suggest({
  blend,
  onTake,
  onClose,
}: {
  blend: number;
  onTake: (parts: BlendPart[]) => void;
  onClose: () => void;
}) {
  const [part, setPart] = useState(0);
  const [found, setFound] = useState<Suggestions>();
  const [error, setError] = useState<Refusal>();
  const abort = useRef<AbortController>(undefined);
  useEffect(() => {
    const mine = new AbortController();
    abort.current = mine;
    readLines<Schemas["SuggestionLine"]>(`/api/blends/${blend}/suggest`, {}, mine.signal, (line) => {
      if (typeof line.part === "number") setPart(line.part);
      if (line.suggestions) setFound(line.suggestions);
    }).catch((why: unknown) => {
      if (!mine.signal.aborted) setError(why instanceof Refusal ? why : OFFLINE);
    });
    return () => mine.abort();
  }, [blend]);
  return (
    <Sheet
      open
      wide
      onClose={onClose}
      title="Suggested from the short list"
      about={
        found
          ? `All ones, pairs and threes of ${found.of}, nearest to ${found.against} first.`
          : "All ones, pairs and threes, brought into line by best sum."
      }
    >
      {error ? (
        <Failed error={error} />
      ) : !found ? (
        <Part what="Tried" part={part} onStop={onClose} />
      ) : (
        <ol aria-label="Suggested blends">
          {found.blends.map((each, i) => (
            <li key={i} className="flex items-center gap-3 border-t border-line py-2 first:border-t-0">
              <span className="w-[86px] shrink-0 text-right font-bold">{fixed(each.distance, 2)} dB off</span>
              <span className="min-w-0 flex-1 text-[13px]">
                <span className="block font-semibold">
                  {each.parts
                    .map(
                      (p, k) => `${each.names[k]} ${fixed(p.gain, 1)} dB${p.inverted ? ", turned over" : ""}`,
                    )
                    .join(" + ")}
                </span>
                <span className="block text-ink-2">{each.words}</span>
              </span>
              <Button onClick={() => onTake(each.parts)}>Put it on</Button>
            </li>
          ))}
        </ol>
      )}
    </Sheet>
  );
}
