import { useQueryClient } from "@tanstack/react-query";
import { Disc, FileInput } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { Link, useSearchParams } from "react-router";
import type { BenchState, Schemas } from "../../api/client";
import { Button, Key } from "../../parts/controls";
import { useKeys } from "../../parts/keys";
import { Part } from "../../parts/Part";
import { usePlay, type Loop } from "../../parts/sound/usePlay";
import { Empty, Failed, Loading } from "../../parts/states";
import { RECORDING_KINDS } from "../../parts/bringIn";
import { useFileDrop } from "../../parts/useFileDrop";
import { OfHookup } from "../bench/OfHookup";
import type { Bench } from "../bench/useBench";
import { BringIn } from "./BringIn";
import { bringing, inOrder } from "./bringing";
import { Counts } from "./Counts";
import { HumRoutine, HumSteps } from "./HumRoutine";
import { LadderPicture } from "./LadderPicture";
import { Progress } from "./Progress";
import { RecordSheet } from "./RecordSheet";
import { numbered, Says } from "./Says";
import { TakePanel } from "./TakePanel";
import { useLadders } from "./useLadders";
import { refreshed, useInspect, useReport, useTakes } from "./useReport";

function Work({ bench, state }: { bench: Bench; state: BenchState }) {
  const client = useQueryClient();
  const [params, setParams] = useSearchParams();
  const takes = useTakes(state.id);
  const list = takes.data?.takes ?? [];
  const asked = params.get("take") ? Number(params.get("take")) : list[0]?.id;
  const report = useReport(asked, state.saves);
  const at = report.data?.take;
  const { part, inspect } = useInspect(asked);
  const play = usePlay(at?.id, at?.measures?.seconds ?? 0, at?.measures?.rate ?? 48000);
  const [go, setGo] = useState<{ at: Loop; asked: number }>();
  const [files, setFiles] = useState<File[]>([]);
  const [recording, setRecording] = useState(false);
  const [humming, setHumming] = useState(false);
  const lines = useLadders(state.id, state.saves);
  const [line, setLine] = useState<string>();
  const ladders = lines.data?.ladders ?? [];
  const ladder = ladders.find((l) => l.input === line) ?? ladders[0];
  const chooser = useRef<HTMLInputElement>(null);
  const show = (take: number) => {
    setGo(undefined);
    setHumming(false);
    setParams({ take: String(take) }, { replace: true });
  };
  useEffect(() => {
    const off = bringing.onTake((take) => {
      refreshed(client);
      setGo(undefined);
      if (take.hookup_id === state.id) setParams({ take: String(take.id) }, { replace: true });
    });
    return () => void off();
  }, [client, state.id, setParams]);
  const says = report.data?.says ?? [];
  const put = (advice: Schemas["TakeAdvice"]) => bench.change(advice.changes);
  const numbers = numbered(says);
  const best = ladder?.best;
  const setBest = () => best && lines.data?.saves === state.saves && bench.change(best.changes);
  useKeys({
    b: setBest,
    u: bench.undo,
    U: bench.redo,
    ...Object.fromEntries(numbers.map((advice, i) => [String(i + 1), () => put(advice)])),
  });
  const choose = () => chooser.current?.click();
  const taken = (list: FileList | null) => {
    const found = inOrder(list ?? []);
    if (found.length) setFiles(found);
  };
  const drop = useFileDrop(taken);
  return (
    <div className={`flex min-h-0 flex-1 flex-col lg:flex-row ${drop.look}`} {...drop.on}>
      <div className="flex min-w-0 flex-1 flex-col lg:overflow-y-auto">
        <div className="flex shrink-0 flex-wrap items-center gap-2 px-5 py-2 text-[13px]">
          <input
            ref={chooser}
            type="file"
            multiple
            accept={RECORDING_KINDS}
            aria-label="Files to bring in"
            className="hidden"
            onChange={(event) => {
              taken(event.target.files);
              event.target.value = "";
            }}
          />
          <Button
            look="main"
            disabled={!ladder || state.analysis.verdict.severity === "stop"}
            title={
              !ladder
                ? "Nothing is plugged into an input that records."
                : state.analysis.verdict.severity === "stop"
                  ? "This hook-up must not be switched on: clear its stops on the Bench first."
                  : undefined
            }
            onClick={() => setRecording(true)}
          >
            <Disc size={15} /> Record, simulated
          </Button>
          <Button onClick={choose}>
            <FileInput size={15} /> Bring in files …
          </Button>
          {ladder && (
            <Button
              disabled={!best}
              onClick={setBest}
              title={best ? best.label : ladder.no_best || "It stands best already."}
            >
              Best setting <Key>b</Key>
            </Button>
          )}
          {ladder && (
            <p className="min-w-0 flex-1 basis-[200px] text-[12.5px] text-ink-2" role="status">
              {best
                ? `${best.label}: peaks ${best.peak.toFixed(1).replace("-", "−")} dBFS, ${(best.peak - best.noise).toFixed(0)} dB over the noise.`
                : ladder.no_best || (ladder.rungs.length > 0 ? "It stands best already." : "")}
            </p>
          )}
          <Link
            className="ml-auto px-1 text-[13px] font-semibold text-ink-2 hover:text-ink"
            to={`/compare/shoot-out?hookup=${state.id}`}
          >
            Shoot-out …
          </Link>
          {ladder && (
            <Button
              look={humming ? "main" : "quiet"}
              aria-pressed={humming}
              onClick={() => setHumming(!humming)}
            >
              Hum routine
            </Button>
          )}
        </div>
        <Progress onShow={show} />
        {lines.error && <Failed error={lines.error} retry={() => void lines.refetch()} />}
        {ladder ? (
          <div className="min-h-[280px] flex-[1.15] shrink-0 border-b border-line pb-1">
            <LadderPicture
              ladder={ladder}
              ladders={ladders}
              state={state}
              onLadder={setLine}
              onChange={bench.change}
            />
          </div>
        ) : lines.data ? (
          <p className="shrink-0 border-b border-line px-5 pb-2 text-ink-2">{lines.data.why}</p>
        ) : (
          !lines.error && <Loading what="the line" />
        )}
        {takes.error && <Failed error={takes.error} retry={() => void takes.refetch()} />}
        {takes.isLoading && <Loading what="its takes" />}
        {takes.data && list.length === 0 && !humming && (
          <Empty title="No recording of this hook-up yet">
            Drop WAV, FLAC or AIFF files here, or choose them: each is inspected, and says what is wrong with
            it.
            <Button look="main" onClick={choose}>
              Bring in files …
            </Button>
          </Empty>
        )}
        {report.error && <Failed error={report.error} retry={() => void report.refetch()} />}
        {asked !== undefined && report.isLoading && <Loading what="the take" />}
        {humming && ladder ? (
          <HumRoutine key={ladder.input} bench={bench} state={state} input={ladder.input} />
        ) : (
          report.data && (
            <TakePanel
              report={report.data}
              takes={list}
              onTake={show}
              play={play}
              go={go}
              onWent={() => setGo(undefined)}
            />
          )
        )}
      </div>
      <aside
        aria-label={humming && ladder ? "What to try" : "What this take says"}
        className="flex shrink-0 flex-col border-t border-line bg-sheet lg:w-[348px] lg:border-t-0 lg:border-l"
      >
        <h2 className="flex shrink-0 items-baseline justify-between gap-3 px-4 pt-3 pb-1.5 text-[13px] font-bold">
          {humming && ladder ? "What to try, the least effort first" : "What this take says"}
          {!humming && <span className="font-normal text-ink-2">{report.data?.counted}</span>}
        </h2>
        {humming && ladder ? (
          <HumSteps bench={bench} state={state} input={ladder.input} />
        ) : report.data?.inspection ? (
          <>
            {report.data.counting && <Counts report={report.data} counting={report.data.counting} />}
            <Says
              says={says}
              busy={bench.busy}
              onGo={(place) => setGo({ at: place, asked: (go?.asked ?? 0) + 1 })}
              onPut={put}
            />
          </>
        ) : report.data ? (
          <div className="px-4 py-2 text-[13px]">
            {inspect.isPending ? (
              <Part what="Inspecting" part={part} />
            ) : (
              <>
                <p className="text-ink-2">This recording has not been inspected in today’s way yet.</p>
                <Button look="main" className="mt-2" onClick={() => inspect.mutate()}>
                  Inspect it
                </Button>
                {inspect.error && <Failed error={inspect.error} />}
              </>
            )}
          </div>
        ) : (
          <p className="px-4 text-[13px] text-ink-2">
            {at
              ? ""
              : "A take that is brought in or recorded is inspected, and what it asks for stands here."}
          </p>
        )}
      </aside>
      {recording && (
        <RecordSheet
          state={state}
          input={ladder?.input ?? ""}
          onClose={() => setRecording(false)}
          onDone={(take) => {
            setRecording(false);
            refreshed(client);
            show(take.id);
          }}
        />
      )}
      {files.length > 0 && (
        <BringIn
          files={files}
          hookup={state.id}
          inputs={state.analysis.lines.map((l) => ({ id: `${l.unit}.${l.socket}`, name: l.name }))}
          onClose={() => setFiles([])}
        />
      )}
    </div>
  );
}

export default function Capture() {
  return <OfHookup at="capture">{(bench, state) => <Work bench={bench} state={state} />}</OfHookup>;
}
