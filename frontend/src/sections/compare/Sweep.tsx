import { useMutation, useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useRef, useState } from "react";
import { Link } from "react-router";
import { answer, api, sendFile, type Schemas } from "../../api/client";
import { ChartFrame } from "../../parts/ChartFrame";
import { Button, Field, FIELD } from "../../parts/controls";
import { currentHookup } from "../../parts/current";
import { Failed, Loading } from "../../parts/states";
import { fixed, short } from "../../parts/table";
import { Tabbed, TabPanel, TabRow } from "../../parts/Tabs";
import { useSize } from "../../parts/useSize";
import { useHookups } from "../bench/HookupMenu";

const FrequencyChart = lazy(() => import("../../parts/FrequencyChart"));
type Report = Schemas["SweepReport"];
const RATES = ["44100", "48000", "96000"] as const;
const VIEWS = [
  { id: "response", name: "Response" },
  { id: "distortion", name: "Distortion" },
  { id: "decay", name: "Dying away" },
] as const;
type View = (typeof VIEWS)[number]["id"];
const kilo = (rate: string) => `${Number(rate) / 1000} kHz`;

/** How an impulse response dies away, and where it is cut. */
function DecayPicture({ found, cut }: { found: Schemas["Decay"]; cut: number }) {
  const { ref, width, height } = useSize();
  const left = 52;
  const span = 80;
  const x = (ms: number) => left + ((ms + 5) / (span + 5)) * (width - left - 10);
  const y = (db: number) => 8 + (-db / 80) * Math.max(30, height - 34);
  const points = found.times.flatMap((t, i) =>
    t <= span ? [`${x(t).toFixed(1)} ${y(found.db[i]!).toFixed(1)}`] : [],
  );
  return (
    <div ref={ref} className="absolute inset-0 mx-5">
      <svg width={width} height={height} role="img" aria-label="Level of the impulse response over time">
        {[0, -20, -40, -60, -80].map((db) => (
          <g key={db}>
            <path d={`M${left} ${y(db)}H${width - 10}`} className="stroke-line" />
            <text x={left - 6} y={y(db) + 4} textAnchor="end" className="fill-ink-2 text-[12px]">
              {fixed(db, 0)} dB
            </text>
          </g>
        ))}
        {[0, 10, 20, 30, 40, 50, 60, 70].map((ms) => (
          <text key={ms} x={x(ms)} y={height - 6} textAnchor="middle" className="fill-ink-2 text-[12px]">
            {ms} ms
          </text>
        ))}
        <path d={`M${points.join("L")}`} fill="none" className="stroke-deep" strokeWidth={1.6} />
        {cut < span && (
          <g>
            <path
              d={`M${x(cut)} 8V${height - 26}`}
              className="stroke-caution"
              strokeDasharray="5 3"
              strokeWidth={1.6}
            />
            <text x={x(cut) + 5} y={20} className="halo fill-caution text-[12px]">
              cut here
            </text>
          </g>
        )}
      </svg>
    </div>
  );
}

function Numbers({ found }: { found: Schemas["SweepResult"] }) {
  const rows: [string, string][] = [
    [
      "Delay",
      `${fixed(found.delay_s * 1000, 3)} ms, ${fixed(found.delay_samples, 1)} samples at ${found.rate / 1000} kHz`,
    ],
    ["Polarity", found.inverted ? "inverted" : "kept"],
    ["Gain at 1 kHz", `${found.gain_db > 0 ? "+" : ""}${fixed(found.gain_db, 2)} dB`],
    ["Noise", found.noise_dbfs === null ? "cannot be told" : `${fixed(found.noise_dbfs, 1)} dBFS`],
    [
      "Clocks apart",
      Math.abs(found.drift_ppm) < 0.05
        ? "not at all"
        : `${fixed(found.drift_ppm, 1)} parts in a million, taken back`,
    ],
    [
      "Told",
      found.usable.length
        ? `from ${short(found.usable[0]!)} Hz to ${short(found.usable[1]! / 1000)} kHz`
        : "nowhere 20 dB over the noise",
    ],
    [
      "Distortion at 1 kHz",
      found.distortion === null ? "not over the noise" : `${short(found.distortion)} %`,
    ],
  ];
  return (
    <table className="w-full text-[13px]" aria-label="What the recording says">
      <tbody>
        {rows.map(([name, value]) => (
          <tr key={name} className="border-t border-line first:border-t-0">
            <th scope="row" className="py-1 pr-3 text-left align-top font-normal text-ink-2">
              {name}
            </th>
            <td className="py-1 font-semibold">{value}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** A path measured: the test file out, its recording in. */
export function Sweep() {
  const [rate, setRate] = useState<(typeof RATES)[number]>("48000");
  const [played, setPlayed] = useState<"" | (typeof RATES)[number]>("");
  const [hookup, setHookup] = useState(currentHookup.get() ?? "");
  const [view, setView] = useState<View>("response");
  const [cut, setCut] = useState("200");
  const file = useRef<HTMLInputElement>(null);
  const hookups = useHookups();
  const client = useQueryClient();
  const measure = useMutation({
    onMutate: () => keep.reset(),
    mutationFn: (from: File | string): Promise<Report> =>
      typeof from === "string"
        ? answer(
            api.POST("/api/hookups/{hookup_id}/sweep", {
              params: { path: { hookup_id: from }, query: { input: "" } },
            }),
          )
        : sendFile<Report>(`/api/sweeps?played=${played}`, from),
  });
  const keep = useMutation({
    mutationFn: (impulse: string) =>
      answer(
        api.POST("/api/impulses/from-sweep", {
          body: { impulse, name: `Sweep, ${new Date().toLocaleString("en-GB")}`, after },
        }),
      ),
    onSuccess: () => void client.invalidateQueries({ queryKey: ["impulses"] }),
  });
  const found = measure.data;
  const response = found?.result.response;
  const after = Math.min(200, Math.max(1, Number(cut) || 200));
  const curve = response ? response.db.map((v, i) => (response.told[i] ? v : null)) : [];
  const orders = response
    ? response.orders.map((order, n) => ({
        name: `${order}${["nd", "rd", "th", "th"][n]}`,
        values: response.harmonics[n]!,
      }))
    : [];
  const table =
    view === "decay"
      ? {
          head: ["Time, ms", "Level, dB"],
          rows: (found?.decay.times ?? []).map((t, i) => [t, found!.decay.db[i]!]),
        }
      : {
          head: ["Frequency, Hz", "Response, dB", ...orders.map((o) => `${o.name}, dB`)],
          rows: (response?.frequency ?? []).map((f, i) => [
            Number(f.toPrecision(3)),
            response!.told[i] ? fixed(response!.db[i]!, 2) : null,
            ...response!.harmonics.map((row) => (row[i] === null ? null : fixed(row[i]!, 1))),
          ]),
        };
  return (
    <div className="flex h-full min-h-0 flex-col overflow-y-auto lg:flex-row lg:overflow-hidden">
      <aside
        aria-label="Measure a path"
        className="flex shrink-0 flex-col gap-3 border-b border-line bg-sheet px-5 py-4 text-[13px] lg:w-[380px] lg:overflow-y-auto lg:border-r lg:border-b-0"
      >
        <h1 className="text-[17px] font-bold">Measure a path with a sweep</h1>
        <p className="text-ink-2">
          The re-amp loop’s level and delay, the response of any path, or an impulse response of a cabinet of
          your own: a clean amp, a microphone. Begin softly: the test file peaks at −18 dBFS and ends in the
          treble. Ears and tweeters take less than meters say.
        </p>
        <div className="flex items-end gap-2">
          <Field label="1. The test file, 10 s">
            <select className={FIELD} value={rate} onChange={(e) => setRate(e.target.value as typeof rate)}>
              {RATES.map((each) => (
                <option key={each} value={each}>
                  at {kilo(each)}
                </option>
              ))}
            </select>
          </Field>
          <a className="pb-1 text-deep underline" href={`/api/sweeps/test.wav?rate=${rate}`} download>
            Save it
          </a>
        </div>
        <p>2. Play it through the path and record what comes back, from before it begins to after it ends.</p>
        <div className="flex items-end gap-2">
          <Button look="main" disabled={measure.isPending} onClick={() => file.current?.click()}>
            3. Its recording …
          </Button>
          <Field label="of the file at">
            <select
              className={FIELD}
              value={played}
              onChange={(e) => setPlayed(e.target.value as typeof played)}
            >
              <option value="">its own rate</option>
              {RATES.map((each) => (
                <option key={each} value={each}>
                  {kilo(each)}
                </option>
              ))}
            </select>
          </Field>
        </div>
        <input
          ref={file}
          type="file"
          accept=".wav,.flac,.aif,.aiff,audio/*"
          aria-label="Recording of the test file"
          className="hidden"
          onChange={(event) => {
            const chosen = event.target.files?.[0];
            event.target.value = "";
            if (chosen) measure.mutate(chosen);
          }}
        />
        <div className="flex items-end gap-2 border-t border-line pt-3">
          <Field label="Or through the simulated interface">
            <select className={FIELD} value={hookup} onChange={(e) => setHookup(e.target.value)}>
              <option value="">a hook-up …</option>
              {(hookups.data?.entries ?? []).map((each) => (
                <option key={each.id} value={each.id}>
                  {each.name}
                </option>
              ))}
            </select>
          </Field>
          <Button
            className="shrink-0"
            disabled={!hookup || measure.isPending}
            onClick={() => measure.mutate(hookup)}
          >
            Measure it
          </Button>
        </div>
        {measure.isPending && <Loading what="the sweep" />}
        {measure.error && <Failed error={measure.error} />}
        <Link className="text-deep underline" to="/compare">
          Back to comparisons
        </Link>
      </aside>
      <div className="flex min-h-[420px] min-w-0 flex-1 flex-col">
        {!found || !response ? (
          <p className="p-8 text-center text-ink-2">
            Delay, polarity, gain, noise, the clocks, the response and what is distorted stand here.
          </p>
        ) : (
          <>
            <div className="grid shrink-0 gap-x-8 gap-y-2 border-b border-line px-5 py-3 md:grid-cols-[1.2fr_1fr]">
              <Numbers found={found.result} />
              <div className="text-[13px]">
                {found.simulated && (
                  <p className="font-semibold">Simulated: made by the program, not measured.</p>
                )}
                {found.result.clipped && (
                  <p className="font-semibold text-caution">
                    Its peaks reach full scale: it is clipped. Distortion and response are not to be trusted;
                    record it with less.
                  </p>
                )}
                <p className="font-semibold">Impulse response, 32-bit float</p>
                <p className="text-ink-2">
                  From 5 ms before its peak. Cut before the first reflection of the room, it is the cabinet’s
                  alone.
                </p>
                <p className="mt-1.5 flex items-center gap-2">
                  <label className="flex items-center gap-1.5">
                    cut after
                    <input
                      className="w-[64px] rounded-md border border-line bg-sheet px-1.5 py-0.5"
                      inputMode="decimal"
                      value={cut}
                      onChange={(e) => setCut(e.target.value)}
                    />
                    ms
                  </label>
                  <a
                    className="text-deep underline"
                    href={`/api/sweeps/${found.impulse}?after=${after}`}
                    download
                  >
                    Save as WAV
                  </a>
                  <Button
                    disabled={keep.isPending || keep.isSuccess}
                    onClick={() => keep.mutate(found.impulse)}
                  >
                    {keep.isSuccess ? "In the library" : "Into the library"}
                  </Button>
                </p>
                {keep.error && <Failed error={keep.error} />}
                {keep.isSuccess && (
                  <Link className="text-deep underline" to="/cab/library">
                    Name it there
                  </Link>
                )}
              </div>
            </div>
            <div className="min-h-[280px] flex-1">
              <Tabbed at={view} onTab={setView}>
                <div className="flex h-full flex-col">
                  <ChartFrame
                    label="What was measured"
                    title={<TabRow label="Pictures" tabs={VIEWS} />}
                    sentence=""
                    table={table}
                  >
                    <TabPanel at={view} className="h-full">
                      {view === "decay" ? (
                        <DecayPicture found={found.decay} cut={after} />
                      ) : (
                        <Suspense fallback={<Loading what="the chart" />}>
                          {view === "response" ? (
                            found.result.usable.length > 0 ? (
                              <FrequencyChart
                                frequency={response.frequency}
                                unit="dB"
                                digits={1}
                                curves={[{ name: "response", values: curve }]}
                              />
                            ) : (
                              <p className="pt-4 text-ink-2">
                                The sweep stands nowhere 20 dB over the noise.
                              </p>
                            )
                          ) : (
                            <FrequencyChart
                              frequency={response.frequency}
                              unit="dB"
                              digits={0}
                              domain={[-100, 0]}
                              curves={orders}
                            />
                          )}
                        </Suspense>
                      )}
                    </TabPanel>
                  </ChartFrame>
                </div>
              </Tabbed>
            </div>
          </>
        )}
      </div>
    </div>
  );
}
