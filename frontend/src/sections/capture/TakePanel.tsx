import { useMutation, useQueryClient } from "@tanstack/react-query";
import { lazy, Suspense, useState } from "react";
import { answer, api, type Schemas, type Take } from "../../api/client";
import { ChartFrame } from "../../parts/ChartFrame";
import { FIELD } from "../../parts/controls";
import type { Loop, Play } from "../../parts/sound/usePlay";
import { Waveform, type Spot } from "../../parts/sound/Waveform";
import { Loading } from "../../parts/states";
import { short } from "../../parts/table";
import { Tabbed, TabPanel, TabRow } from "../../parts/Tabs";
import { Figures } from "./Figures";
import { SpectrogramPicture } from "./SpectrogramPicture";
import { refreshed, type Report } from "./useReport";

const FrequencyChart = lazy(() => import("../../parts/FrequencyChart"));

const VIEWS = [
  { id: "waveform", name: "Waveform" },
  { id: "spectrum", name: "Spectrum" },
  { id: "spectrogram", name: "Spectrogram" },
] as const;
type View = (typeof VIEWS)[number]["id"];

function SpectrumChart({ spectrum }: { spectrum: Schemas["Spectrum"] }) {
  const curves = [
    { name: "loud parts", values: spectrum.loud ?? [] },
    { name: "quiet parts", values: spectrum.quiet ?? [] },
  ].filter((c) => c.values.length > 0);
  const all = curves.flatMap((c) => c.values);
  const top = Math.ceil(Math.max(-20, ...all) / 10) * 10;
  const frequency = spectrum.frequency ?? [];
  return (
    <ChartFrame
      label="Spectrum"
      title={<b>Spectrum</b>}
      sentence="Level in each sixth of an octave: 85 ms windows, loud ones within 10 dB of L10, quiet ones near the noise floor."
      table={{
        head: ["Frequency, Hz", ...curves.map((c) => `${c.name}, dBFS`)],
        rows: frequency.map((f, i) => [short(f), ...curves.map((c) => Number(c.values[i]!.toFixed(1)))]),
      }}
    >
      {curves.length === 0 ? (
        <p className="pt-3 text-ink-2">There is nothing in it to draw.</p>
      ) : (
        <Suspense fallback={<Loading what="the chart" />}>
          <FrequencyChart
            frequency={frequency}
            curves={curves}
            unit="dBFS"
            digits={1}
            domain={[Math.max(top - 120, Math.floor(Math.min(...all) / 10) * 10), top]}
          />
        </Suspense>
      )}
    </ChartFrame>
  );
}

const clock = (seconds: number) =>
  seconds < 60
    ? `${seconds.toFixed(1)} s`
    : `${Math.floor(seconds / 60)}:${String(Math.floor(seconds % 60)).padStart(2, "0")} min`;

/** At which input a take was recorded: what it is held against. */
function RecordedAt({ report }: { report: Report }) {
  const client = useQueryClient();
  const { take } = report;
  const say = useMutation({
    mutationFn: (input: string) =>
      answer(
        api.PUT("/api/takes/{take_id}", {
          params: { path: { take_id: take.id }, query: { saves: take.saves } },
          body: { ...take.note, recorded_at: input },
        }),
      ),
    onSettled: () => refreshed(client),
  });
  return (
    <label className="flex items-center gap-1.5 text-[12.5px] text-ink-2">
      Recorded at
      <select
        className={`${FIELD} !w-[150px] !py-0.5`}
        value={report.recorded_at}
        disabled={say.isPending}
        onChange={(event) => say.mutate(event.target.value)}
      >
        {report.inputs.map((each) => (
          <option key={each.id} value={each.id}>
            {each.name}
          </option>
        ))}
      </select>
      {say.error && <span className="text-stop">{say.error.message}</span>}
    </label>
  );
}

/** The take that is looked at: what it is, its sound as a picture, its measures. */
export function TakePanel({
  report,
  takes,
  onTake,
  play,
  go,
  onWent,
}: {
  report: Report;
  takes: Take[];
  onTake: (take: number) => void;
  play: Play;
  go?: { at: Loop; asked: number };
  onWent: () => void;
}) {
  const [chosen, setView] = useState<View>("waveform");
  // A place in the sound that is asked for is shown in the waveform.
  const view = go ? "waveform" : chosen;
  const { take, inspection } = report;
  const measures = take.measures!;
  const clips = inspection?.clips ?? [];
  const spots: Spot[] = clips.map((clip) => ({
    start: clip.start,
    stop: clip.stop,
    label: `${clip.runs.toLocaleString("en-GB")} flat top${clip.runs === 1 ? "" : "s"}, ${clip.start.toFixed(2)} s`,
  }));
  return (
    <Tabbed at={view} onTab={setView}>
      <section
        aria-label={`Take ${take.number}`}
        className="flex min-h-[320px] flex-1 shrink-0 flex-col px-5 pt-1.5 pb-2"
      >
        <div className="flex shrink-0 flex-wrap items-baseline gap-x-3 text-[13px]">
          <select
            aria-label="Take"
            className={`${FIELD} !w-[230px] !py-0.5 font-semibold`}
            value={take.id}
            onChange={(event) => onTake(Number(event.target.value))}
          >
            {takes.map((each) => (
              <option key={each.id} value={each.id}>
                {each.number}. {each.note.name}
                {each.simulated ? ", simulated" : ""}
              </option>
            ))}
          </select>
          <p className="min-w-0 flex-1 truncate text-ink-2">
            {clock(measures.seconds)} · {short(measures.rate / 1000)} kHz
            {measures.channels === 2 ? " · stereo" : ""}
            {take.simulated && " · simulated"}
            {measures.peak_dbfs !== null &&
              measures.peak_dbfs !== undefined &&
              ` · peak ${measures.peak_dbfs.toFixed(1).replace("-", "−")} dBFS`}
            {take.note.song_start !== null &&
              take.note.song_start !== undefined &&
              ` · starts in the song at ${clock(take.note.song_start)}`}
          </p>
          {report.inputs.length > 1 && <RecordedAt report={report} />}
          <TabRow label="Pictures of the take" tabs={VIEWS} />
        </div>
        <TabPanel at={view} className="flex min-h-0 flex-1 flex-col pt-1">
          {view === "waveform" ? (
            <Waveform
              key={take.id}
              take={take}
              play={play}
              quiet={inspection?.quiet ?? []}
              spots={spots}
              go={go}
              onWent={() => {
                setView("waveform");
                onWent();
              }}
            />
          ) : view === "spectrogram" ? (
            <SpectrogramPicture take={take} />
          ) : (
            inspection && <SpectrumChart spectrum={inspection.spectrum} />
          )}
        </TabPanel>
        {inspection && (
          <div className="mt-1.5">
            <Figures inspection={inspection} />
          </div>
        )}
      </section>
    </Tabbed>
  );
}
