import { useMutation } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../../api/client";
import { Button, FIELD } from "../../parts/controls";
import { Failed } from "../../parts/states";
import { fixed } from "../../parts/table";
import { Slide, Typed } from "./Amount";
import type { Blend, Doc } from "./useBlend";

type Filter = Doc["filter"];
type Numbers = Exclude<keyof Filter, "slope">;

const STAGES: readonly { name: string; lead: Numbers; rest: readonly Numbers[] }[] = [
  { name: "High-pass, 12 dB/oct", lead: "high_pass", rest: [] },
  { name: "Bass resonance", lead: "bass_gain", rest: ["bass", "bass_q"] },
  { name: "Low-mid dip", lead: "dip_gain", rest: ["dip", "dip_q"] },
  { name: "Presence", lead: "presence_gain", rest: ["presence", "presence_q"] },
  { name: "Low-pass", lead: "low_pass", rest: [] },
];
const SLOPES = [12, 18, 24, 36] as const;
const BARE_DB = -12;
const STEPS = 200;

/** The stages of the filter that stands for a speaker, each with a slider for what matters most and fields for the rest. */
export function Filter({
  state,
  doc,
  onFilter,
}: {
  state: Blend;
  doc: Doc;
  onFilter: (next: Partial<Filter>) => void;
}) {
  const fit = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/blends/{blend_id}/fit", { params: { path: { blend_id: state.id } }, body: { doc } }),
      ),
    onSuccess: (made: Schemas["FittedFilter"]) => onFilter(made.filter),
  });
  const controls = new Map(state.filter?.controls.map((each) => [each.field, each]));
  const slide = (field: Numbers) => {
    const control = controls.get(field);
    const value = doc.filter[field];
    if (!control || value === null) return null;
    const { low, high, unit } = control;
    // Frequencies go by what the ear takes for equal steps.
    const log = unit === "Hz";
    const place = (v: number) => (Math.log(v / low) / Math.log(high / low)) * STEPS;
    const at = (p: number) => Number((low * (high / low) ** (p / STEPS)).toPrecision(3));
    return (
      <Slide
        label={control.label}
        value={log ? place(value) : value}
        bounds={log ? [0, STEPS] : [low, high]}
        step={log ? 1 : 0.5}
        said={(v) => (log ? `${fixed(at(v), 0)} Hz` : `${fixed(v, 1)} ${unit}`)}
        className="min-w-0 flex-1"
        onValue={(v) => onFilter({ [field]: log ? at(v) : v })}
      />
    );
  };
  const type = (field: Numbers) => {
    const control = controls.get(field);
    const value = doc.filter[field];
    if (!control || value === null) return null;
    return (
      <Typed
        key={field}
        label={control.label}
        unit={control.unit || "Q"}
        value={value}
        digits={control.unit === "Hz" ? 0 : control.unit ? 1 : 2}
        bounds={[control.low, control.high]}
        onValue={(next) => onFilter({ [field]: next })}
      />
    );
  };
  return (
    <div role="group" aria-label="Stages of the filter" className="text-[12.5px]">
      {STAGES.map(({ name, lead, rest }) => (
        <div key={name} className="border-b border-line px-4 py-1.5">
          <div className="flex items-center gap-x-2">
            <h3 className="flex-1 font-semibold">{name}</h3>
            {rest.map(type)}
            {lead === "low_pass" && (
              <select
                aria-label="Slope of the low-pass"
                className={`${FIELD} !w-auto !py-0.5`}
                value={doc.filter.slope}
                onChange={(event) => onFilter({ slope: Number(event.target.value) as Filter["slope"] })}
              >
                {SLOPES.map((each) => (
                  <option key={each} value={each}>
                    {each} dB/oct
                  </option>
                ))}
              </select>
            )}
          </div>
          <div className="mt-0.5 flex items-center gap-x-2.5">
            {slide(lead)}
            {type(lead)}
          </div>
        </div>
      ))}
      <div className="border-b border-line px-4 py-1.5">
        <div className="flex min-h-[24px] items-center gap-x-2">
          <label className="flex flex-1 items-center gap-2 font-semibold">
            <input
              type="checkbox"
              className="size-[15px] accent-[var(--deep)]"
              checked={doc.filter.bare !== null}
              onChange={(event) => onFilter({ bare: event.target.checked ? BARE_DB : null })}
            />
            Bare signal mixed in
          </label>
          {doc.filter.bare !== null && (
            <>
              <span className="text-ink-2">under</span>
              {type("bare_low_pass")}
            </>
          )}
        </div>
        {doc.filter.bare !== null && (
          <div className="flex items-center gap-x-2.5">
            {slide("bare")}
            {type("bare")}
          </div>
        )}
      </div>
      <div className="flex flex-wrap items-center gap-2 border-b border-line px-4 py-2 text-ink-2">
        <Button disabled={fit.isPending} onClick={() => fit.mutate()}>
          Bring it near
        </Button>
        <span className="min-w-0 flex-1">
          {fit.isPending
            ? "fitting …"
            : fit.data
              ? `${fixed(fit.data.distance, 1)} dB off ${fit.data.against} when it was fitted`
              : `to ${state.against}`}
        </span>
        {fit.error && <Failed error={fit.error} />}
      </div>
    </div>
  );
}
