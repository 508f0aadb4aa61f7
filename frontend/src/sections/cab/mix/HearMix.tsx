import { Pause, Play } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { Button, Key } from "../../../parts/controls";
import { useKeys } from "../../../parts/keys";
import { fixed } from "../../../parts/table";
import { usePlayTogether } from "../../compare/usePlayTogether";
import { Slide, Typed } from "../Amount";
import type { Blend } from "../useBlend";
import type { MixEdits } from "./useMix";

const LEVEL = [-30, 20] as const;
const WHAT = [
  ["both", "both"],
  ["guitar", "guitar alone"],
  ["backing", "backing alone"],
] as const;

const against = (level: number) =>
  level === 0
    ? "as loud as the backing"
    : `${fixed(Math.abs(level), 1)} LU ${level < 0 ? "under" : "over"} the backing`;

/** How loud the guitar stands, and the section as it is heard with it. */
export function HearMix({ blend, mix, onHeard }: { blend: Blend; mix: MixEdits; onHeard: () => void }) {
  const doc = mix.doc!;
  const [what, setWhat] = useState<string>("both");
  const together = usePlayTogether((name) => {
    const [saves, blendId, which] = name.split("|");
    return `/api/mixes/${mix.state!.id}/blends/${blendId}/sound?what=${which}&saves=${saves}`;
  });
  const { play, stop, takeOver, isPlaying } = together;
  const name = `${mix.state!.saves}.${blend.saves}|${blend.id}|${what}`;
  const playing = useRef(isPlaying);
  playing.current = isPlaying;
  useEffect(() => {
    if (playing.current) void takeOver(name);
  }, [name, takeOver]);
  // Another section is another length: what plays over and over begins anew.
  useEffect(() => stop, [doc.start, doc.stop, stop]);
  useEffect(() => {
    if (isPlaying && what !== "backing") onHeard();
    // eslint-disable-next-line react-hooks/exhaustive-deps -- counted when what is heard changes, not when its counter does
  }, [name, isPlaying]);
  const toggle = () => (isPlaying ? stop() : void play([name], name, { start: doc.start, stop: doc.stop }));
  const next = () => {
    const at = WHAT.findIndex(([id]) => id === what);
    setWhat(WHAT[(at + 1) % WHAT.length]![0]);
  };
  useKeys({ " ": toggle, b: next });
  return (
    <section aria-label="Hear it in the mix" className="border-b border-line px-4 py-2 text-[13px]">
      <h2 className="font-bold">
        “{blend.name}” <span className="font-normal text-ink-2">{against(doc.level)}</span>
      </h2>
      <div className="mt-1 flex items-center gap-2 text-[12.5px]">
        <Slide
          label="Guitar over the backing"
          value={doc.level}
          bounds={LEVEL}
          step={0.5}
          said={against}
          className="min-w-0 flex-1"
          onValue={(level) => mix.change({ level })}
        />
        <Typed
          label="Guitar over the backing"
          unit="LU"
          value={doc.level}
          digits={1}
          bounds={LEVEL}
          onValue={(level) => mix.change({ level })}
        />
      </div>
      <div className="mt-1.5 flex flex-wrap items-center gap-1.5">
        <Button look="main" disabled={doc.tracks.length === 0} onClick={toggle}>
          {isPlaying ? <Pause size={14} /> : <Play size={14} />} {isPlaying ? "Stop" : "Play"}
        </Button>
        {WHAT.map(([id, words]) => (
          <Button
            key={id}
            look={what === id ? "main" : "plain"}
            aria-pressed={what === id}
            onClick={() => setWhat(id)}
          >
            {words}
          </Button>
        ))}
        <Key>b</Key>
      </div>
      {together.failed && (
        <p role="alert" className="mt-1 text-[12.5px] text-stop">
          It could not be played: the server did not give the sound.
        </p>
      )}
    </section>
  );
}
