import type { Schemas } from "../../api/client";
import { fixed } from "../../parts/table";

const hertz = (f: number) => (f >= 1000 ? `${f / 1000} kHz` : `${f} Hz`);
/** Never rounded up to all of it. */
export const percent = (share: number) => `${fixed(Math.floor(share * 1000) / 10, 1)} %`;

/** By octave: how much a filter gives, and how deep both cancel with and without it. */
export function FilterCan({ found, name }: { found: Schemas["FilterShare"]; name: string }) {
  return (
    <div className="absolute inset-0 mx-5 flex flex-col overflow-y-auto pt-2">
      <p className="shrink-0 text-[12.5px] text-ink-2">
        The share of each octave of {name} that a linear filter of the reference gives; what is left stays
        left whatever one equalises. Below, how deep both cancel: with the best level alone, and with that
        filter.
      </p>
      <div className="flex min-h-[150px] flex-1 items-stretch gap-2 pt-2">
        {found.octaves.map((octave) => (
          <div key={octave.hz} className="flex min-w-0 flex-1 flex-col">
            <div className="relative min-h-[70px] flex-1 border border-line bg-faint">
              {octave.share !== null && (
                <div
                  className="absolute inset-x-0 bottom-0 bg-water"
                  style={{ height: `${Math.max(0, 100 * octave.share)}%` }}
                />
              )}
            </div>
            <b className="pt-0.5 text-center text-[13px]">
              {octave.share === null ? "–" : percent(octave.share)}
            </b>
            <span className="text-center text-[12px] text-ink-2">{hertz(octave.hz)}</span>
            <span className="text-center text-[12px]">
              {octave.null === null
                ? "nothing there"
                : `${fixed(octave.null, 0)} → ${fixed(octave.null_filtered ?? 0, 0)} dB`}
            </span>
          </div>
        ))}
      </div>
      <p className="shrink-0 pt-1.5 pb-1 text-[12.5px]">
        Over all {percent(found.share)}; left {fixed(found.left, 1)} dB
        {found.noise === null
          ? ", of which how much is noise cannot be told: neither has a quiet part for it"
          : `, noise expected at ${fixed(found.noise, 1)} dB`}
        . Best level alone: {fixed(found.null, 1)} dB. Coherence {percent(found.coherent)}.
      </p>
    </div>
  );
}
