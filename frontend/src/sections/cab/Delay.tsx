import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, Refusal, type Schemas } from "../../api/client";
import { Field, TextInput } from "../../parts/controls";
import { Sheet } from "../../parts/Sheet";
import { Failed } from "../../parts/states";
import { fixed } from "../../parts/table";
import { asNumber } from "../../parts/typed";
import type { Blend } from "./useBlend";

type Path = Schemas["MonitoringPath"];
type Texts = Record<Exclude<keyof Path, "direct">, string>;

const STORE = "low-tide-monitoring";
const FIELDS: [keyof Texts, string, string][] = [
  ["buffer", "Buffer", "samples"],
  ["rate", "Sample rate", "Hz"],
  ["converters", "Converters, both", "ms"],
  ["plug_ins", "Plug-ins", "ms"],
  ["impulse", "Impulse response begins", "ms"],
  ["distance", "Distance of the monitors", "m"],
];
const USUAL: Omit<Texts, "impulse"> = {
  buffer: "128",
  rate: "48000",
  converters: "1",
  plug_ins: "0",
  distance: "0",
};

function kept(): Partial<Texts> {
  try {
    return JSON.parse(localStorage.getItem(STORE) ?? "{}") as Partial<Texts>;
  } catch {
    return {};
  }
}

/** When the blend begins to sound, ms. */
const begins = (state: Blend) =>
  Math.max(
    0,
    state.later + Math.min(...state.parts.filter((p) => p.heard).map((p) => p.begins + p.part.delay)),
  );

/** How late one hears oneself through software, part by part, and what would mend it. */
export function Delay({ state, onClose }: { state: Blend; onClose: () => void }) {
  const [texts, setTexts] = useState<Texts>({
    ...USUAL,
    ...kept(),
    impulse: state.response ? begins(state).toFixed(2) : "0",
  });
  const [direct, setDirect] = useState(false);
  const change = (field: keyof Texts, text: string) => {
    const next = { ...texts, [field]: text };
    setTexts(next);
    localStorage.setItem(STORE, JSON.stringify(next));
  };
  const body = {
    ...(Object.fromEntries(FIELDS.map(([field]) => [field, asNumber(texts[field])])) as Omit<Path, "direct">),
    direct,
  };
  const found = useQuery({
    queryKey: ["monitoring", body],
    queryFn: () => answer(api.POST("/api/tools/monitoring-delay", { body })),
    placeholderData: keepPreviousData,
    retry: false,
  });
  const refused = found.error instanceof Refusal ? found.error : undefined;
  const wrong = (field: string) => {
    const at = refused?.fields.findIndex((path) => path.at(-1) === field) ?? -1;
    return at >= 0 ? refused?.problems[at] : undefined;
  };
  const delay = refused ? undefined : found.data;
  const whole = Math.max(10, delay?.total ?? 0);
  return (
    <Sheet
      open
      onClose={onClose}
      title="How late one hears oneself"
      about="Through software, from string to ear."
    >
      <div className="grid grid-cols-2 gap-x-3 gap-y-2">
        {FIELDS.map(([field, label, unit]) => (
          <Field key={field} label={label} unit={unit} problem={wrong(field)}>
            <TextInput
              inputMode="decimal"
              value={texts[field]}
              onChange={(event) => change(field, event.target.value)}
            />
          </Field>
        ))}
      </div>
      <label className="mt-2 flex items-center gap-2 text-[13px]">
        <input
          type="checkbox"
          className="size-[15px] accent-[var(--deep)]"
          checked={direct}
          onChange={(event) => setDirect(event.target.checked)}
        />
        The interface lets the input through directly as well
      </label>
      {found.error && refused?.fields.length === 0 && <Failed error={found.error} />}
      {delay && (
        <div className="mt-3 border-t border-line pt-3 text-[13px]" role="status">
          {delay.words.map((said, i) => (
            <p key={said} className={i === 0 ? `font-bold ${delay.late ? "text-caution" : ""}` : "mt-1"}>
              {said}
            </p>
          ))}
          <dl className="mt-2">
            {delay.parts.map((part) => (
              <div key={part.name} className="flex items-center gap-2 py-0.5">
                <dt className="w-[140px] text-ink-2">{part.name}</dt>
                <dd className="flex flex-1 items-center gap-2">
                  <span className="h-[10px] flex-1 bg-faint">
                    <span
                      className="block h-full bg-water"
                      style={{ width: `${(100 * part.ms) / whole}%` }}
                    />
                  </span>
                  <span className="w-[60px] text-right">{fixed(part.ms, 1)} ms</span>
                </dd>
              </div>
            ))}
          </dl>
        </div>
      )}
    </Sheet>
  );
}
