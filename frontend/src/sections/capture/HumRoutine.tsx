import { keepPreviousData, useMutation, useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { answer, api, Refusal, sendFile, type BenchState, type Change, type Schemas } from "../../api/client";
import { Button, FIELD, TextInput } from "../../parts/controls";
import { Failed, Loading } from "../../parts/states";
import { asNumber } from "../../parts/typed";
import type { Bench } from "../bench/useBench";

type Reading = Schemas["HumReading"];
type Which = "a" | "b";

const said = (value: number) => value.toFixed(1).replace("-", "−");

/** One position: recorded through the stand-in, brought in as a file, or read off a meter. */
function Position({
  name,
  what,
  reading,
  onRecord,
  onReading,
}: {
  name: string;
  what: string;
  reading?: Reading;
  onRecord: () => Promise<Reading>;
  onReading: (reading: Reading) => void;
}) {
  const file = useRef<HTMLInputElement>(null);
  const [typed, setTyped] = useState("");
  const read = useMutation({
    mutationFn: (from: "record" | File) =>
      from === "record" ? onRecord() : sendFile<Reading>("/api/hum/reading", from),
    onSuccess: onReading,
  });
  const type = () => {
    const level = asNumber(typed);
    if (typeof level === "number" && Number.isFinite(level) && level >= -200 && level <= 140)
      onReading({ levels: [level], hum: null });
    else if (typed.trim()) setTyped("");
  };
  return (
    <section aria-label={`Position ${name}`} className="min-w-0 rounded-lg border border-line bg-sheet p-3">
      <h2 className="text-[14px] font-bold">
        {name} <span className="font-normal text-ink-2">{what}</span>
      </h2>
      <div className="mt-2 flex flex-wrap items-center gap-2 text-[13px]">
        <Button disabled={read.isPending} onClick={() => read.mutate("record")}>
          Record 5 s, simulated
        </Button>
        <Button disabled={read.isPending} onClick={() => file.current?.click()}>
          From a file …
        </Button>
        <input
          ref={file}
          type="file"
          aria-label={`Recording of position ${name}`}
          accept=".wav,.flac,.aif,.aiff"
          className="hidden"
          onChange={(event) => {
            const chosen = event.target.files?.[0];
            if (chosen) read.mutate(chosen);
            event.target.value = "";
          }}
        />
        <span className="flex items-center gap-1 text-ink-2">
          or by meter
          <TextInput
            aria-label={`Level in position ${name}, dB`}
            inputMode="decimal"
            className="!w-[58px] !py-0.5"
            value={typed}
            onChange={(event) => setTyped(event.target.value)}
            onBlur={type}
            onKeyDown={(event) => event.key === "Enter" && type()}
          />
          dB
        </span>
      </div>
      {read.isPending && <Loading what="it" />}
      {read.error && <Failed error={read.error} />}
      {reading && !read.isPending && (
        <p className="mt-2" role="status">
          <b className="text-[19px]">
            {said(reading.levels.reduce((a, b) => a + b, 0) / reading.levels.length)}
          </b>{" "}
          {reading.levels.length > 1 ? "dBFS" : "dB"}
          {reading.levels.length > 1 && (
            <span className="text-ink-2">, thirds at {reading.levels.map(said).join(", ")}</span>
          )}
        </p>
      )}
    </section>
  );
}

function usePlan(state: BenchState, input: string) {
  return useQuery({
    queryKey: ["hum", state.id, state.saves, input],
    queryFn: () =>
      answer(
        api.GET("/api/hookups/{hookup_id}/hum", {
          params: { path: { hookup_id: state.id }, query: { input } },
        }),
      ),
    placeholderData: keepPreviousData,
  });
}

/** What to try against hum, the least effort first, from what the hook-up has. */
export function HumSteps({ bench, state, input }: { bench: Bench; state: BenchState; input: string }) {
  const plan = usePlan(state, input);
  if (!plan.data) return null;
  return (
    <ol className="min-h-0 flex-1 overflow-y-auto">
      {plan.data.steps.map((step, i) => (
        <li
          key={step.text}
          className="grid grid-cols-[22px_1fr] gap-2 border-t border-line px-4 py-2.5 first:border-t-0"
        >
          <b>{i + 1}</b>
          <div>
            <p className="text-[13px]">{step.text}</p>
            {step.fix && (
              <Button
                className="mt-1.5"
                disabled={bench.busy}
                onClick={() => bench.change(step.fix!.changes)}
              >
                Put that on
              </Button>
            )}
          </div>
        </li>
      ))}
    </ol>
  );
}

/** Two positions of the line held against each other by what they hum. */
export function HumRoutine({ bench, state, input }: { bench: Bench; state: BenchState; input: string }) {
  const plan = usePlan(state, input);
  const [lift, setLift] = useState(0);
  const [readings, setReadings] = useState<Partial<Record<Which, Reading>>>({});
  const both = readings.a && readings.b ? { a: readings.a, b: readings.b } : undefined;
  const found = useQuery({
    queryKey: ["hum answer", both],
    queryFn: () => answer(api.POST("/api/hum", { body: both! })),
    enabled: both !== undefined,
    staleTime: Infinity,
    retry: false,
  });
  const log = useMutation({
    mutationFn: (text: string) => answer(api.POST("/api/lines", { body: { text, session: null } })),
  });
  if (plan.error) return <Failed error={plan.error} retry={() => void plan.refetch()} />;
  if (!plan.data) return <Loading what="what the line has against hum" />;
  const { lifts, always, name } = plan.data;
  const at = lifts[lift];
  const changes = (on: boolean): Change[] =>
    at ? [{ op: "set", unit: at.unit, control: at.control, value: on }] : [];
  const record = (on: boolean) => () =>
    answer(
      api.POST("/api/hookups/{hookup_id}/hum/reading", {
        params: { path: { hookup_id: state.id } },
        body: { input, changes: changes(on) },
      }),
    );
  const what = (on: boolean) =>
    at ? `the lift of ${at.name} ${on ? "on" : "off"}` : on ? "as you change it by hand" : "as it is";
  const best = found.data && found.data.quieter !== "neither" ? found.data.quieter === "B" : undefined;
  const keep = () => {
    if (!found.data || best === undefined) return;
    if (at && at.on !== best) bench.change(changes(best));
    log.mutate(
      `Hum at ${name}: ${what(best)} stays. ${found.data.text} ${found.data.kind}`.trim().slice(0, 1000),
    );
  };
  return (
    <section
      aria-label="Hum routine"
      className="flex min-h-[320px] flex-1 shrink-0 flex-col gap-3 px-5 pt-2 pb-3"
    >
      <p className="text-[13px] text-ink-2">
        Amp on and its volume up, the guitar’s volume down. Listen to one position, then to the other; the
        quieter one stays. {always}
      </p>
      {lifts.length > 1 && (
        <label className="flex items-center gap-2 text-[13px]">
          What is switched
          <select
            className={`${FIELD} !w-[230px] !py-0.5`}
            value={lift}
            onChange={(event) => {
              setLift(Number(event.target.value));
              setReadings({});
            }}
          >
            {lifts.map((each, i) => (
              <option key={`${each.unit}${each.control}`} value={i}>
                the lift of {each.name}
              </option>
            ))}
          </select>
        </label>
      )}
      <div className="grid gap-3 sm:grid-cols-2">
        {(["a", "b"] as const).map((which) => (
          <Position
            key={`${which}${lift}`}
            name={which.toUpperCase()}
            what={what(which === "b")}
            reading={readings[which]}
            onRecord={record(which === "b")}
            onReading={(reading) => setReadings((before) => ({ ...before, [which]: reading }))}
          />
        ))}
      </div>
      {found.error && <Failed error={found.error instanceof Refusal ? found.error : found.error} />}
      {found.data && (
        <div role="status" className="rounded-lg border border-line bg-sheet p-3">
          <p className="font-semibold">{found.data.text}</p>
          {found.data.kind && <p className="mt-0.5 text-[13px] text-ink-2">{found.data.kind}</p>}
          {best !== undefined && (
            <p className="mt-2 flex flex-wrap items-center gap-2 text-[13px]">
              <Button look="main" disabled={log.isPending || log.isSuccess || bench.busy} onClick={keep}>
                {at && at.on !== best
                  ? `Put ${found.data.quieter} on and log it`
                  : `Keep ${found.data.quieter} and log it`}
              </Button>
              {log.isSuccess && <span className="text-ink-2">It stands in the log.</span>}
              {log.error && <span className="text-stop">{log.error.message}</span>}
            </p>
          )}
        </div>
      )}
    </section>
  );
}
