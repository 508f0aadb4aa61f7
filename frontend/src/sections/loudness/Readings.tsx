import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Gauge, Trash2 } from "lucide-react";
import { useState } from "react";
import { answer, api, type Schemas } from "../../api/client";
import { Button, Field, FIELD, TextInput } from "../../parts/controls";
import { Confirm } from "../../parts/Confirm";
import { Failed } from "../../parts/states";
import { short, signed } from "../../parts/table";
import { asNumber, asNumberIfAny } from "../../parts/typed";
import type { Loudness } from "./useLoudness";

type Reading = Schemas["ReadingState"];

const EMPTY = { level: "", background: "", distance: "", minutes: "", device: "", at: "" };

/** What changes with a reading: predictions, the dose, verdicts. */
export function useStale() {
  const client = useQueryClient();
  return () => {
    for (const key of ["readings", "ears", "loudness", "hookup", "hookups"]) {
      void client.invalidateQueries({ queryKey: [key] });
    }
  };
}

function Item({ reading, onUse, onDelete }: { reading: Reading; onUse: () => void; onDelete: () => void }) {
  const { reading: read } = reading;
  return (
    <li className={`border-t border-line px-4 py-2 ${reading.used ? "" : "opacity-70"}`}>
      <div className="flex items-baseline gap-2">
        <b>
          {short(Number(reading.measured.toFixed(1)))} dB{read.weighting === "Z" ? "" : read.weighting}
        </b>
        <span className="truncate text-[13px]">{reading.place_name}</span>
        <span className="ml-auto shrink-0 text-[12px] text-ink-2">
          {new Date(reading.at).toLocaleString("en-GB", {
            day: "numeric",
            month: "short",
            hour: "2-digit",
            minute: "2-digit",
          })}
        </span>
      </div>
      <p className="text-[12.5px] text-ink-2">
        {reading.predicted == null
          ? "not predicted: the hook-up or its gear has changed"
          : `${signed(reading.offset!)} dB to the ${Math.round(reading.predicted)} predicted`}
        , {reading.hookup_name}
        {read.distance != null && `, at ${short(read.distance)} m`}
        {read.device && `, ${read.device}`}
      </p>
      {reading.stray && <p className="text-[12.5px] font-semibold text-caution">{reading.stray}</p>}
      <p className="flex gap-1">
        <label className="flex items-center gap-1.5 text-[12.5px]">
          <input type="checkbox" className="accent-[var(--deep)]" checked={reading.used} onChange={onUse} />
          counts
        </label>
        <Button
          look="quiet"
          className="ml-auto !px-1 !py-0"
          aria-label="Delete this reading"
          onClick={onDelete}
        >
          <Trash2 size={14} />
        </Button>
      </p>
    </li>
  );
}

/** Readings of the sound level meter: typed in, or taken from the simulated one; and what they say. */
export function Readings({ hookup, loudness }: { hookup: string; loudness: Loudness }) {
  const { plan } = loudness;
  const [place, setPlace] = useState(plan.place);
  const [weighting, setWeighting] = useState<"A" | "C" | "Z">("A");
  const [response, setResponse] = useState<"slow" | "fast">("slow");
  const [form, setForm] = useState(EMPTY);
  const [doomed, setDoomed] = useState<Reading>();
  const stale = useStale();
  const list = useQuery({ queryKey: ["readings"], queryFn: () => answer(api.GET("/api/readings")) });
  const path = { params: { path: { hookup_id: hookup } } };
  const set = (change: Partial<typeof EMPTY>) => setForm((before) => ({ ...before, ...change }));
  const meter = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/hookups/{hookup_id}/meter", {
          ...path,
          body: { place, weighting, response, distance: asNumberIfAny(form.distance) },
        }),
      ),
    onSuccess: (shown) =>
      set({
        level: shown.level.toFixed(1),
        background: shown.background.toFixed(1),
        device: "simulated meter",
      }),
  });
  const add = useMutation({
    mutationFn: () => {
      const reading = {
        place,
        weighting,
        response,
        level: asNumber(form.level),
        background: asNumberIfAny(form.background),
        distance: asNumberIfAny(form.distance),
        minutes: asNumberIfAny(form.minutes) ?? 0,
        device: form.device,
      };
      return answer(
        api.POST("/api/hookups/{hookup_id}/readings", { ...path, body: { reading, at: form.at } }),
      );
    },
    onSuccess: () => {
      setForm({ ...EMPTY, device: form.device });
      stale();
    },
  });
  const use = useMutation({
    mutationFn: (reading: Reading) =>
      answer(
        api.PUT("/api/readings/{reading_id}", {
          params: { path: { reading_id: reading.id } },
          body: { used: !reading.used },
        }),
      ),
    onSuccess: stale,
  });
  const remove = useMutation({
    mutationFn: (id: number) =>
      answer(api.DELETE("/api/readings/{reading_id}", { params: { path: { reading_id: id } } })),
    onSuccess: stale,
  });
  const error = add.error ?? meter.error ?? use.error ?? remove.error;
  return (
    <div className="at-arm min-h-0 flex-1 overflow-y-auto pb-3">
      <form
        className="px-4 pt-2.5"
        onSubmit={(event) => {
          event.preventDefault();
          add.mutate();
        }}
      >
        <div className="grid grid-cols-2 gap-x-3 gap-y-2">
          <div className="col-span-2">
            <Field label="Place">
              <select className={FIELD} value={place} onChange={(e) => setPlace(e.target.value)}>
                {plan.places.map((p) => (
                  <option key={p.place} value={p.place}>
                    {p.name}
                  </option>
                ))}
              </select>
            </Field>
          </div>
          <Field label="Weighting">
            <select className={FIELD} value={weighting} onChange={(e) => setWeighting(e.target.value as "A")}>
              <option value="A">A</option>
              <option value="C">C</option>
              <option value="Z">Z, none</option>
            </select>
          </Field>
          <Field label="Response">
            <select
              className={FIELD}
              value={response}
              onChange={(e) => setResponse(e.target.value as "slow")}
            >
              <option value="slow">slow</option>
              <option value="fast">fast</option>
            </select>
          </Field>
          <Field label="Reading" unit="dB">
            <TextInput
              inputMode="decimal"
              value={form.level}
              onChange={(e) => set({ level: e.target.value })}
            />
          </Field>
          <Field label="Background" unit="dB">
            <TextInput
              inputMode="decimal"
              placeholder="nothing played"
              value={form.background}
              onChange={(e) => set({ background: e.target.value })}
            />
          </Field>
          <Field label="Distance" unit="m">
            <TextInput
              inputMode="decimal"
              placeholder="as the place has it"
              value={form.distance}
              onChange={(e) => set({ distance: e.target.value })}
            />
          </Field>
          <Field label="Listened" unit="min">
            <TextInput
              inputMode="decimal"
              placeholder="0"
              value={form.minutes}
              onChange={(e) => set({ minutes: e.target.value })}
            />
          </Field>
          <Field label="Meter">
            <TextInput maxLength={60} value={form.device} onChange={(e) => set({ device: e.target.value })} />
          </Field>
          <Field label="When">
            <TextInput placeholder="now" value={form.at} onChange={(e) => set({ at: e.target.value })} />
          </Field>
        </div>
        <div className="mt-2.5 flex flex-wrap gap-2">
          <Button disabled={meter.isPending || !place} onClick={() => meter.mutate()}>
            <Gauge size={14} /> Read the simulated meter
          </Button>
          <Button look="main" type="submit" disabled={add.isPending || form.level.trim() === ""}>
            Keep this reading
          </Button>
        </div>
        <p className="mt-1.5 text-[12px] text-ink-2">
          Slow response, at the listening place, not at the grille. Background: the same with nothing played.
          When: as 2026-03-01T21:30.
        </p>
      </form>
      {error && <Failed error={error} />}
      <h2 className="flex justify-between px-4 pt-3 pb-1 text-[13px] font-bold">
        Measured against predicted
        <a className="font-normal text-deep underline" href="/api/readings.csv" download>
          CSV
        </a>
      </h2>
      {list.error && <Failed error={list.error} retry={() => void list.refetch()} />}
      <ul aria-label="Readings">
        {list.data?.readings.map((reading) => (
          <Item
            key={reading.id}
            reading={reading}
            onUse={() => use.mutate(reading)}
            onDelete={() => setDoomed(reading)}
          />
        ))}
      </ul>
      {list.data?.readings.length === 0 && (
        <p className="px-4 text-[13px] text-ink-2">
          None yet. One reading at a place takes the guess out of its rooms and walls; three say how sure it
          is.
        </p>
      )}
      <Confirm
        open={doomed !== undefined}
        title="Delete this reading?"
        yes="Delete it"
        onClose={() => setDoomed(undefined)}
        onYes={() => doomed && remove.mutate(doomed.id)}
      >
        The prediction and the dose do without it from then on. To leave it out of the prediction alone,
        untick “counts”.
      </Confirm>
    </div>
  );
}
