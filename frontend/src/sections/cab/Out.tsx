import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../../api/client";
import { Field, FIELD } from "../../parts/controls";
import { Sheet } from "../../parts/Sheet";
import type { Blend } from "./useBlend";

const LEVELS = [
  ["as it is", "as it is: what the parts make of it"],
  ["peak", "peak at −1 dBFS"],
  ["programme", "as loud as what goes in"],
] as const;
const LINK =
  "inline-flex min-h-[28px] items-center rounded-[7px] border-[1.5px] border-ink bg-sheet px-2.5 font-semibold hover:bg-faint";

/** The blend as files: an impulse response, its recipe, and takes rendered through it. */
export function Out({ state, onClose }: { state: Blend; onClose: () => void }) {
  const [rate, setRate] = useState("48000");
  const [stereo, setStereo] = useState(state.stereo);
  const [minimum, setMinimum] = useState(false);
  const [level, setLevel] = useState<string>("as it is");
  const [take, setTake] = useState("");
  const [anyway, setAnyway] = useState(false);
  const sources = useQuery({
    queryKey: ["blend-sources"],
    queryFn: () => answer(api.GET("/api/blends/sources")),
  });
  const takes = (sources.data?.sources ?? []).filter((s) => s.id.startsWith("take-"));
  const chosen = takes.find((s) => s.id === take);
  const how = new URLSearchParams({
    rate,
    stereo: String(stereo),
    minimum: String(minimum),
    level,
  }).toString();
  const base = `/api/blends/${state.id}`;
  const tick = (label: string, value: boolean, set: (next: boolean) => void) => (
    <label className="flex items-center gap-2 text-[13px]">
      <input
        type="checkbox"
        className="size-[15px] accent-[var(--deep)]"
        checked={value}
        onChange={(event) => set(event.target.checked)}
      />
      {label}
    </label>
  );
  return (
    <Sheet
      open
      onClose={onClose}
      title={`“${state.name}”, out`}
      about="As an impulse response, and on takes."
    >
      <div className="grid gap-2">
        <div className="grid grid-cols-2 gap-3">
          <Field label="Sample rate">
            <select className={FIELD} value={rate} onChange={(event) => setRate(event.target.value)}>
              {["44100", "48000", "96000"].map((each) => (
                <option key={each} value={each}>
                  {Number(each) / 1000} kHz
                </option>
              ))}
            </select>
          </Field>
          <Field label="Level">
            <select className={FIELD} value={level} onChange={(event) => setLevel(event.target.value)}>
              {LEVELS.map(([id, name]) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </select>
          </Field>
        </div>
        {tick("Stereo; otherwise folded to one channel", stereo, setStereo)}
        {tick("Minimum phase: the same tone with the least delay", minimum, setMinimum)}
        <p className="flex flex-wrap gap-2 pt-1 text-[13px]">
          <a className={LINK} href={`${base}/impulse.wav?${how}`} download>
            Impulse response, WAV
          </a>
          <a className={LINK} href={`${base}/recipe.json?${how}`} download>
            Recipe, JSON
          </a>
        </p>
        <h3 className="mt-2 border-t border-line pt-3 text-[13px] font-bold">A take through it</h3>
        <Field label="Take">
          <select
            className={FIELD}
            value={take}
            onChange={(event) => {
              setTake(event.target.value);
              setAnyway(false);
            }}
          >
            <option value="">choose …</option>
            {takes.map((each) => (
              <option key={each.id} value={each.id}>
                {each.name}
              </option>
            ))}
          </select>
        </Field>
        {chosen?.warning && (
          <>
            <p className="text-[13px] font-medium text-caution">{chosen.warning}</p>
            {tick("I know, render it anyway", anyway, setAnyway)}
          </>
        )}
        {chosen && (!chosen.warning || anyway) && (
          <p className="text-[13px]">
            <a
              className={LINK}
              href={`${base}/takes/${take.slice("take-".length)}/file.wav?anyway=${anyway}`}
              download
            >
              Take through the blend, 24-bit WAV
            </a>
          </p>
        )}
      </div>
    </Sheet>
  );
}
