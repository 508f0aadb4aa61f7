import { X } from "lucide-react";
import { Button } from "../../parts/controls";
import { strokeOf } from "../../parts/strokes";
import { fixed } from "../../parts/table";
import { Slide, Typed } from "./Amount";
import { LETTERS, type Blend, type BlendPart, type Doc } from "./useBlend";

const GAIN = [-40, 12] as const;
const DELAY = [-5, 20] as const;
const side = (pan: number) =>
  pan === 0 ? "centre" : `${Math.round(Math.abs(pan) * 100)} ${pan < 0 ? "left" : "right"}`;

/** Every part with its gain, polarity, delay and place. */
export function Parts({
  state,
  doc,
  at,
  onAt,
  onPart,
  onRemove,
}: {
  state: Blend;
  doc: Doc;
  at: number;
  onAt: (place: number) => void;
  onPart: (place: number, next: Partial<BlendPart>) => void;
  onRemove: (place: number) => void;
}) {
  return (
    <ul aria-label="Parts of the blend">
      {doc.parts.map((part, place) => {
        const strip = state.parts[place]?.part.impulse === part.impulse ? state.parts[place] : undefined;
        const name = strip?.name ?? "…";
        const toggle = (field: "inverted" | "solo" | "mute", words: string) => (
          <Button
            look={part[field] ? "main" : "quiet"}
            aria-pressed={part[field]}
            className="min-h-[24px] !px-1.5 !py-0 !text-[12.5px]"
            onClick={() => onPart(place, { [field]: !part[field] })}
          >
            {words}
          </Button>
        );
        return (
          <li
            key={`${place} ${part.impulse}`}
            className={`border-b border-line px-4 py-1.5 ${at === place ? "bg-shoal" : ""}`}
            onFocus={() => onAt(place)}
          >
            <div className="flex items-center gap-2">
              <svg width="18" height="8" aria-hidden className="shrink-0">
                <path d="M0 4h18" strokeWidth="2.5" {...strokeOf(place + 1)} />
              </svg>
              <span className="min-w-0 flex-1 truncate font-semibold" title={name}>
                <span className="text-ink-2">{LETTERS[place]}</span> {strip?.called ?? name}
              </span>
              <button
                type="button"
                aria-label={`Take ${name} out`}
                className="flex size-[24px] shrink-0 items-center justify-center rounded text-ink-2 hover:bg-faint"
                onClick={() => onRemove(place)}
              >
                <X size={14} />
              </button>
            </div>
            {strip?.gone ? (
              <p className="text-[12.5px] text-caution">Its impulse response is gone from the library.</p>
            ) : (
              <>
                <div className="flex flex-wrap items-center gap-x-2.5 text-[12.5px]">
                  <Slide
                    label={`Gain of ${name}`}
                    value={part.gain}
                    bounds={GAIN}
                    step={0.5}
                    said={(v) => `${fixed(v, 1)} dB`}
                    className="w-[110px]"
                    onValue={(gain) => onPart(place, { gain })}
                  />
                  <Typed
                    label={`Gain of ${LETTERS[place]}`}
                    unit="dB"
                    value={part.gain}
                    digits={1}
                    bounds={GAIN}
                    onValue={(gain) => onPart(place, { gain })}
                  />
                  <Typed
                    label={`Delay of ${LETTERS[place]}`}
                    unit="ms"
                    value={part.delay}
                    digits={2}
                    bounds={DELAY}
                    onValue={(delay) => onPart(place, { delay })}
                  />
                </div>
                <div className="flex flex-wrap items-center gap-x-1 text-[12.5px]">
                  <Slide
                    label={`Pan of ${name}`}
                    value={part.pan}
                    bounds={[-1, 1]}
                    step={0.05}
                    said={side}
                    className="w-[64px]"
                    onValue={(pan) => onPart(place, { pan })}
                  />
                  <span className="w-[58px] text-ink-2">{side(part.pan)}</span>
                  {toggle("inverted", "turn over")}
                  {toggle("solo", "solo")}
                  {toggle("mute", "mute")}
                </div>
                {strip?.turn && (
                  <p className="text-[12.5px] font-medium text-caution">
                    Turned over it would make the low end over 1 dB stronger.
                  </p>
                )}
              </>
            )}
          </li>
        );
      })}
    </ul>
  );
}
