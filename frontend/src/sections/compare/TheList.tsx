import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link } from "react-router";
import { answer, api, OFFLINE, Refusal, type Schemas } from "../../api/client";
import { bringIn, RECORDING_KINDS } from "../../parts/bringIn";
import { Button } from "../../parts/controls";
import { copyText } from "../../parts/copyText";
import { readLines } from "../../parts/ndjson";
import { Part } from "../../parts/Part";
import { Failed, Loading } from "../../parts/states";
import { fixed } from "../../parts/table";
import { type Comparison } from "./useComparison";

type Line = Schemas["ComparisonLine"];
type Item = Schemas["ListedRecording"];

/** Long work on the list: what is recorded here, and what was recorded elsewhere. */
function useListWork(id: number, put: (next: Comparison) => void) {
  const client = useQueryClient();
  const [doing, setDoing] = useState<{ what: string; part: number }>();
  const [error, setError] = useState<Refusal>();
  const abort = useRef<AbortController>(undefined);
  const run = async (work: (mine: AbortController) => Promise<void>) => {
    const mine = new AbortController();
    abort.current = mine;
    setError(undefined);
    try {
      await work(mine);
    } catch (found) {
      if (!mine.signal.aborted) setError(found instanceof Refusal ? found : OFFLINE);
    } finally {
      setDoing(undefined);
      for (const key of ["list", "takes", "sessions"]) void client.invalidateQueries({ queryKey: [key] });
      void client.invalidateQueries({ queryKey: ["comparison", id] });
    }
  };
  const heard = (what: string, from: number, share: number) => (line: Line) => {
    if (line.doing) setDoing({ what: `${line.doing.name} ${line.doing.what}`, part: line.doing.part });
    if (typeof line.part === "number") setDoing({ what, part: from + share * line.part });
    if (line.comparison) put(line.comparison);
  };
  const record = () =>
    run((mine) => {
      setDoing({ what: "Recording", part: 0 });
      return readLines<Line>(`/api/comparisons/${id}/list/record`, {}, mine.signal, heard("", 0, 1));
    });
  const bring = (files: File[], number?: number) =>
    run(async (mine) => {
      for (const file of files) {
        const what = `Bringing in ${file.name}`;
        setDoing({ what, part: 0 });
        const upload = await bringIn(
          file,
          true,
          (part) => setDoing({ what, part: part / 2 }),
          () => mine.signal.aborted,
        );
        const body = { upload, file_name: file.name.slice(0, 300), number: number ?? null };
        await readLines<Line>(`/api/comparisons/${id}/list/files`, body, mine.signal, heard(what, 0.5, 0.5));
      }
    });
  return { doing, error, record, bring, stop: () => abort.current?.abort() };
}

function Row({ item, onFile, onCopy }: { item: Item; onFile: () => void; onCopy: () => void }) {
  const loudest = item.loud.reduce<Item["loud"][number] | undefined>(
    (most, each) => (!most || each.dba > most.dba ? each : most),
    undefined,
  );
  const over = item.loud.filter((each) => each.over !== null && each.over > 0);
  return (
    <li className="grid grid-cols-[34px_1fr_auto] gap-x-3 border-t border-line px-5 py-2.5 first:border-t-0">
      <span className="text-[20px] leading-tight font-bold text-deep">{item.number}</span>
      <div className="min-w-0">
        <p className="font-semibold">{item.name}</p>
        {item.stop ? (
          <p className="mt-0.5 text-[13px] font-semibold text-stop">
            Must not be switched on as it stands: {item.stop}
          </p>
        ) : item.moves.length > 0 ? (
          <ol className="mt-0.5 list-inside list-[square] text-[13px]">
            {item.moves.map((move, i) => (
              <li
                key={move}
                className={i === 0 && move.startsWith("Amp off") ? "font-semibold text-stop" : ""}
              >
                {move}
              </li>
            ))}
          </ol>
        ) : (
          <p className="text-[13px] text-ink-2">Nothing is moved.</p>
        )}
        {loudest && (
          <p className="mt-0.5 text-[13px] text-caution">
            Loud: about {fixed(loudest.dba, 0)} dBA, “{loudest.name}”
            {over.length > 0 && `; over the limit at ${over.map((each) => each.name).join(", ")}`}
          </p>
        )}
      </div>
      <div className="flex flex-col items-end gap-1 text-[12.5px]">
        {item.take === null ? (
          <>
            <button
              type="button"
              className="text-ink-2 hover:underline"
              title="Copy what its file should be called"
              onClick={onCopy}
            >
              {item.file_name}
            </button>
            <Button className="min-h-[24px] !py-0.5" onClick={onFile}>
              Its file …
            </Button>
          </>
        ) : (
          <span className="font-semibold text-ok">recorded</span>
        )}
        <Link className="text-deep underline" to={`/run/${item.hookup}`}>
          on by its run sheet
        </Link>
      </div>
    </li>
  );
}

/** The recordings of a shoot-out in their order: what is moved before each, what is loud, and what came of it. */
export function TheList({ id, put }: { id: number; put: (next: Comparison) => void }) {
  const query = useQuery({
    queryKey: ["list", id],
    queryFn: () =>
      answer(api.GET("/api/comparisons/{comparison_id}/list", { params: { path: { comparison_id: id } } })),
  });
  const work = useListWork(id, put);
  const chooser = useRef<HTMLInputElement>(null);
  const number = useRef<number>(undefined);
  const choose = (which?: number) => {
    number.current = which;
    chooser.current?.click();
  };
  if (query.error) return <Failed error={query.error} retry={() => void query.refetch()} />;
  if (!query.data) return <Loading what="the list" />;
  const { items, loud, leads, send, left_out, bias, missing, played } = query.data;
  return (
    <section aria-label="Shoot-out list" className="flex min-h-0 flex-1 flex-col">
      <div className="shrink-0 px-5 pt-2.5 pb-2 text-[13px]">
        <p className="text-[15px]">
          <b>
            {items.length} recordings,{" "}
            {leads === 0 ? "no speaker lead moved" : `${leads} speaker leads moved`}.
          </b>{" "}
          {loud?.words} {send} Played: {played}.
        </p>
        <p className="mt-0.5 text-ink-2">{bias}</p>
        {left_out.map((why) => (
          <p key={why} className="mt-0.5 font-semibold text-stop">
            Not on the list: {why}
          </p>
        ))}
        <div className="mt-2 flex flex-wrap gap-2">
          <Button
            look="main"
            disabled={missing === 0 || Boolean(work.doing)}
            onClick={() => void work.record()}
          >
            Record what is missing, simulated
          </Button>
          <Button disabled={Boolean(work.doing)} onClick={() => choose()}>
            Bring the files back …
          </Button>
          <input
            ref={chooser}
            type="file"
            multiple
            accept={RECORDING_KINDS}
            aria-label="Files of the list"
            className="hidden"
            onChange={(event) => {
              const files = [...(event.target.files ?? [])];
              event.target.value = "";
              if (files.length) void work.bring(number.current ? files.slice(0, 1) : files, number.current);
            }}
          />
        </div>
        {work.doing && (
          <div className="mt-2">
            <Part what={work.doing.what} part={work.doing.part} onStop={work.stop} />
          </div>
        )}
        {work.error && <Failed error={work.error} />}
      </div>
      <ol className="min-h-0 flex-1 overflow-y-auto border-t border-line pb-4">
        {items.map((item) => (
          <Row
            key={`${item.number}${item.hookup}`}
            item={item}
            onFile={() => choose(item.number)}
            onCopy={() => void copyText(item.file_name)}
          />
        ))}
      </ol>
    </section>
  );
}
