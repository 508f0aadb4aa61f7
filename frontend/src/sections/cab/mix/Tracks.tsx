import { X } from "lucide-react";
import { Button } from "../../../parts/controls";
import { fixed } from "../../../parts/table";
import { Slide, Typed } from "../Amount";
import type { MixEdits } from "./useMix";

const GAIN = [-40, 12] as const;
const BEGINS = [0, 36_000] as const;

/** Where a track sounds in the song, with the section that is looked at. */
function Lane({
  at,
  seconds,
  section,
  end,
}: {
  at: number;
  seconds: number;
  section: { start: number; stop: number };
  end: number;
}) {
  const part = (s: number) => `${Math.min(100, Math.max(0, (s / end) * 100))}%`;
  return (
    <svg className="h-[16px] w-full min-w-[60px]" aria-hidden>
      <rect x="0" y="7" width="100%" height="2" fill="var(--line)" />
      <rect
        x={part(section.start)}
        y="0"
        width={part(section.stop - section.start)}
        height="16"
        fill="var(--shoal)"
        stroke="var(--deep)"
        strokeDasharray="3 3"
      />
      <rect x={part(at)} y="5" width={part(seconds)} height="6" rx="1" fill="var(--ink-2)" />
    </svg>
  );
}

/** What sounds beside the guitar: each track with its level, where it begins in the song, and where it sounds. */
export function Tracks({ mix }: { mix: MixEdits }) {
  const { state, doc } = mix;
  if (!state || !doc) return null;
  const section = { start: doc.start, stop: doc.stop };
  const end = Math.max(doc.stop, ...state.tracks.map((t) => t.at + t.seconds), 1);
  return (
    <ul aria-label="Tracks of the backing" className="text-[12.5px]">
      {doc.tracks.map((track, place) => {
        const found = state.tracks[place];
        const shown = found?.track.source === track.source ? found : undefined;
        const name = shown?.name ?? "…";
        return (
          <li
            key={`${place} ${track.source}`}
            className="grid grid-cols-2 items-center gap-x-3 border-b border-line px-5 py-1 md:grid-cols-[minmax(120px,1fr)_minmax(60px,1fr)_auto]"
          >
            <span className="min-w-0">
              <span className="block truncate font-semibold" title={name}>
                {name}
              </span>
              {shown?.gone ? (
                <span className="block font-medium text-caution">{shown.gone}</span>
              ) : (
                <span className="block truncate text-ink-2">
                  {shown && `${shown.about}, ${fixed(shown.seconds, 1)} s`}
                </span>
              )}
            </span>
            <Lane at={shown?.at ?? 0} seconds={shown?.seconds ?? 0} section={section} end={end} />
            <span className="col-span-2 flex flex-wrap items-center gap-x-2 md:col-span-1 md:flex-nowrap">
              <Slide
                label={`Gain of ${name}`}
                value={track.gain}
                bounds={GAIN}
                step={0.5}
                said={(v) => `${fixed(v, 1)} dB`}
                className="w-[90px] max-xl:hidden"
                onValue={(gain) => mix.changeTrack(place, { gain })}
              />
              <Typed
                label={`Gain of ${name}`}
                unit="dB"
                value={track.gain}
                digits={1}
                bounds={GAIN}
                onValue={(gain) => mix.changeTrack(place, { gain })}
              />
              <span className="text-ink-2">from</span>
              <Typed
                label={`${name} begins at`}
                unit="s"
                value={track.at ?? shown?.at ?? 0}
                digits={2}
                bounds={BEGINS}
                onValue={(at) => mix.changeTrack(place, { at })}
              />
              <Button
                look={track.mute ? "main" : "quiet"}
                aria-pressed={track.mute}
                aria-label={`Mute ${name}`}
                className="min-h-[24px] !px-1.5 !py-0 !text-[12.5px]"
                onClick={() => mix.changeTrack(place, { mute: !track.mute })}
              >
                mute
              </Button>
              <button
                type="button"
                aria-label={`Take ${name} out`}
                className="flex size-[24px] shrink-0 items-center justify-center rounded text-ink-2 hover:bg-faint"
                onClick={() => mix.change({ tracks: doc.tracks.filter((_, i) => i !== place) })}
              >
                <X size={14} />
              </button>
            </span>
          </li>
        );
      })}
    </ul>
  );
}
