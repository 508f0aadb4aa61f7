import { Square } from "lucide-react";
import { Button } from "../../parts/controls";
import { short } from "../../parts/table";
import type { Loudness, Step } from "./useLoudness";
import { useTakeAt } from "./useTakeAt";

/** The take at full against some dB less, not matched: what a step takes away, by ear. */
export function HearStep({ loudness, chosen }: { loudness: Loudness; chosen?: Step }) {
  const { heard, quieter } = loudness;
  const player = useTakeAt(heard.take == null ? "/api/loudness/take.wav" : `/api/takes/${heard.take}/audio`);
  const steps = [
    { down: 0, name: "at full", words: "" },
    ...quieter.map((q) => ({ down: q.down_db, name: `−${short(q.down_db)} dB`, words: q.words })),
    ...(chosen && chosen.down_db > 0.05
      ? [{ down: chosen.down_db, name: `${chosen.name} ${chosen.position}`, words: "" }]
      : []),
  ];
  return (
    <section aria-label="Hear it" className="border-b border-line px-4 py-2.5">
      <h2 className="flex items-center gap-2 text-[13px] font-bold">
        Hear it
        <span className="font-normal text-ink-2">{heard.name}, not matched</span>
        {player.at !== undefined && (
          <Button look="quiet" className="ml-auto !py-0" onClick={player.stop}>
            <Square size={13} /> Stop
          </Button>
        )}
      </h2>
      <div className="mt-1 flex flex-wrap gap-1.5">
        {steps.map(({ down, name, words }) => (
          <Button
            key={name}
            aria-pressed={player.at === down}
            title={words}
            className="!px-2 !py-0.5 text-[13px] aria-pressed:border-ink aria-pressed:bg-shoal aria-pressed:font-semibold"
            onClick={() => void player.hear(down)}
          >
            {name}
          </Button>
        ))}
      </div>
      <p className="mt-1 text-[12px] text-ink-2">
        {player.failed
          ? "The recording cannot be played."
          : player.at
            ? `${short(player.at)} dB less than at full: ${steps.find((s) => s.down === player.at)?.words || "as the speaker would be"}.`
            : "Set your monitors so that “at full” is no louder than is good for you."}
      </p>
    </section>
  );
}
