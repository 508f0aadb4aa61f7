import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Bookmark, ChevronDown, ChevronRight, Star } from "lucide-react";
import { useDeferredValue, useRef, useState } from "react";
import { Link, useSearchParams } from "react-router";
import { answer, api, type Schemas } from "../../api/client";
import { Confirm } from "../../parts/Confirm";
import { Button, TextInput } from "../../parts/controls";
import { LongList } from "../../parts/LongList";
import { Part } from "../../parts/Part";
import { Empty, Failed, Loading } from "../../parts/states";
import { fixed, signed } from "../../parts/table";
import { useFileDrop } from "../../parts/useFileDrop";
import { ImpulseForm } from "./ImpulseForm";
import { onTop, useBringing, useLibrary, type Impulse } from "./useLibrary";

const KINDS = ".wav,.flac,.aif,.aiff,.frd,.txt,audio/wav,audio/flac,audio/aiff,text/plain";
const MOST_WITHIN = 6;
const ORIGINS: Record<Impulse["origin"], string> = {
  file: "",
  made: "made by the program",
  sweep: "own sweep",
  simulated: "sweep, simulated",
  response: "from a response, minimum phase",
};

function Row({
  entry,
  chosen,
  unfolded,
  onChoose,
  onUnfold,
  onNote,
}: {
  entry: Impulse;
  chosen: boolean;
  unfolded: boolean;
  onChoose: () => void;
  onUnfold: () => void;
  onNote: (next: Partial<Impulse["note"]>) => void;
}) {
  const { note, bands } = entry;
  return (
    <div
      className={`flex items-center gap-1.5 border-b border-line py-0.5 pr-3 text-[13px] ${chosen ? "bg-shoal" : ""} ${entry.under === null ? "pl-2" : "pl-8"}`}
    >
      {entry.folds > 0 ? (
        <button
          type="button"
          aria-label={`${entry.folds} alike under ${note.name}`}
          aria-expanded={unfolded}
          className="flex size-[24px] items-center justify-center rounded text-ink-2 hover:bg-faint"
          onClick={onUnfold}
        >
          {unfolded ? <ChevronDown size={15} /> : <ChevronRight size={15} />}
        </button>
      ) : (
        <span className="w-[24px]" />
      )}
      {(
        [
          ["favourite", "Favourite", Star],
          ["listed", "Short list", Bookmark],
        ] as const
      ).map(([field, label, Icon]) => (
        <button
          key={field}
          type="button"
          aria-label={`${label}: ${note.name}`}
          title={label}
          aria-pressed={note[field]}
          className="flex size-[24px] items-center justify-center rounded text-ink-2 hover:bg-faint"
          onClick={() => onNote({ [field]: !note[field] })}
        >
          <Icon size={15} className={note[field] ? "fill-deep text-deep" : ""} />
        </button>
      ))}
      <button
        type="button"
        aria-current={chosen}
        className="grid min-w-0 flex-1 grid-cols-[minmax(0,1fr)_auto] items-center gap-x-3 py-1 text-left xl:grid-cols-[minmax(0,1.4fr)_minmax(0,1fr)_230px_52px]"
        onClick={onChoose}
      >
        <span className="min-w-0">
          <span className="block truncate font-semibold">{note.name}</span>
          <span className="block truncate text-[12px] text-ink-2">
            {[
              ORIGINS[entry.origin],
              entry.inverted ? "points down" : "",
              entry.folds ? `${entry.folds} alike folded` : "",
              entry.in_blends ? `in ${entry.in_blends} blend${entry.in_blends > 1 ? "s" : ""}` : "",
              ...note.tags,
            ]
              .filter(Boolean)
              .join(" · ")}
          </span>
        </span>
        <span className="truncate text-[12.5px] max-xl:hidden">
          {[note.microphone, note.distance === null ? "" : `${note.distance} cm`, note.axis]
            .filter(Boolean)
            .join(", ") || "–"}
        </span>
        <span className="grid grid-cols-4 text-right text-[12.5px] tabular-nums max-xl:hidden">
          {([bands.low, bands.low_mid, bands.presence, bands.top] as const).map((db, i) => (
            <span key={i}>{signed(db)}</span>
          ))}
        </span>
        <span className="text-right text-[12.5px] tabular-nums">
          {entry.length === null ? "–" : `${fixed(entry.length, 0)} ms`}
        </span>
      </button>
    </div>
  );
}

/** The library of impulse responses: brought in, found, folded, named, trusted. */
export function Library() {
  const client = useQueryClient();
  const [words, setWords] = useState("");
  const [within, setWithin] = useState(1.5);
  const [open, setOpen] = useState<number[]>([]);
  const [asked] = useSearchParams();
  const [chosenId, setChosen] = useState(Number(asked.get("impulse")) || undefined);
  const [deleting, setDeleting] = useState<Impulse>();
  const chooser = useRef<HTMLInputElement>(null);
  const bringing = useBringing();
  const settled = useDeferredValue(within);
  const library = useLibrary(useDeferredValue(words), settled > 0 ? settled : null);
  const all = library.data?.impulses ?? [];
  const list = onTop(all).flatMap((e) =>
    open.includes(e.id) ? [e, ...all.filter((u) => u.under === e.id)] : [e],
  );
  const chosen = all.find((e) => e.id === chosenId);
  const again = () => void client.invalidateQueries({ queryKey: ["impulses"] });
  const edit = useMutation({
    mutationFn: ({ id, note }: { id: number; note: Schemas["ImpulseNote"] }) =>
      answer(api.PUT("/api/impulses/{impulse_id}", { params: { path: { impulse_id: id } }, body: note })),
    onSuccess: again,
  });
  const remove = useMutation({
    mutationFn: (ids: number[]) => answer(api.POST("/api/impulses/delete", { body: { ids } })),
    onSuccess: () => {
      setChosen(undefined);
      again();
    },
  });
  const taken = (found: FileList | null) => found?.length && void bringing.bring([...found]);
  const drop = useFileDrop(taken);
  return (
    <div
      className={`flex h-full min-h-0 flex-col overflow-y-auto lg:overflow-hidden ${drop.look}`}
      {...drop.on}
    >
      <div className="flex shrink-0 flex-wrap items-center gap-x-3 gap-y-2 border-b border-line px-5 py-2 text-[13px]">
        <Link className="underline" to="/cab">
          Back to the blend
        </Link>
        <TextInput
          aria-label="Search the library"
          placeholder="Search: ribbon 4×12 favourite …"
          className="!w-[230px]"
          value={words}
          onChange={(event) => setWords(event.target.value)}
        />
        <label className="flex items-center gap-2">
          Alike within
          <input
            type="range"
            min={0}
            max={MOST_WITHIN}
            step={0.1}
            value={within}
            aria-valuetext={within > 0 ? `${fixed(within, 1)} dB` : "not folded"}
            onChange={(event) => setWithin(Number(event.target.value))}
            className="w-[110px] accent-[var(--deep)]"
          />
          <span className="w-[70px] text-ink-2">{within > 0 ? `${fixed(within, 1)} dB` : "not folded"}</span>
        </label>
        <span className="text-ink-2" role="status">
          {library.data &&
            `${library.data.of} in all${settled > 0 ? `, ${library.data.groups} stand for them` : ""} · short list ${library.data.listed} of 8`}
        </span>
        <Button className="ml-auto" look="main" onClick={() => chooser.current?.click()}>
          Bring files in …
        </Button>
        <input
          ref={chooser}
          type="file"
          multiple
          accept={KINDS}
          aria-label="Impulse responses to bring in"
          className="hidden"
          onChange={(event) => {
            taken(event.target.files);
            event.target.value = "";
          }}
        />
      </div>
      {bringing.at && (
        <div className="shrink-0 px-5 py-1.5">
          <Part
            what={`${bringing.at.done + 1} of ${bringing.at.of}, ${bringing.at.name}`}
            part={bringing.at.done / bringing.at.of}
            onStop={bringing.stop}
          />
        </div>
      )}
      {bringing.refused.length > 0 && (
        <details className="shrink-0 border-b border-line px-5 py-1.5 text-[13px]" open>
          <summary className="font-semibold text-caution">
            {bringing.brought} came in, {bringing.refused.length} did not
          </summary>
          <ul className="max-h-[120px] overflow-y-auto">
            {bringing.refused.map((each, i) => (
              <li key={i}>
                <b>{each.name}</b>: {each.why}
              </li>
            ))}
          </ul>
          <Button look="quiet" onClick={bringing.forget}>
            Understood
          </Button>
        </details>
      )}
      {[bringing.error, edit.error, remove.error].map((each, i) => each && <Failed key={i} error={each} />)}
      <div className="flex min-h-0 flex-1 flex-col lg:flex-row">
        <div className="flex min-w-0 flex-1 flex-col">
          {library.error && !library.data ? (
            <Failed error={library.error} retry={() => void library.refetch()} />
          ) : !library.data ? (
            <Loading what="the library" />
          ) : library.data.of === 0 ? (
            <Empty title="No impulse responses yet">
              Drop WAV, FLAC or AIFF files here, up to five seconds each, or a measured response as FRD. What
              their names say of cabinet, microphone and distance is read, and can be corrected.
              <Button look="main" onClick={() => chooser.current?.click()}>
                Bring files in …
              </Button>
            </Empty>
          ) : list.length === 0 ? (
            <Empty title="None has these words">
              <Button onClick={() => setWords("")}>Show all</Button>
            </Empty>
          ) : (
            <>
              <div
                aria-hidden
                className="hidden shrink-0 items-center gap-1.5 border-b border-line py-1 pr-3 pl-2 text-[12px] text-ink-2 xl:flex"
              >
                <span className="w-[84px]" />
                <span className="grid flex-1 grid-cols-[minmax(0,1.4fr)_minmax(0,1fr)_230px_52px] gap-x-3">
                  <span>Name</span>
                  <span>Microphone</span>
                  <span className="grid grid-cols-4 text-right">
                    <span>low</span>
                    <span>low-mid</span>
                    <span>presence</span>
                    <span>top, dB</span>
                  </span>
                  <span className="text-right">−60 dB</span>
                </span>
              </div>
              <LongList
                count={list.length}
                height={() => 44}
                className="min-h-0 flex-1 overflow-y-auto"
                row={(index) => {
                  const entry = list[index]!;
                  return (
                    <Row
                      entry={entry}
                      chosen={entry.id === chosenId}
                      unfolded={open.includes(entry.id)}
                      onChoose={() => setChosen(entry.id)}
                      onUnfold={() =>
                        setOpen(
                          open.includes(entry.id) ? open.filter((o) => o !== entry.id) : [...open, entry.id],
                        )
                      }
                      onNote={(next) => edit.mutate({ id: entry.id, note: { ...entry.note, ...next } })}
                    />
                  );
                }}
              />
            </>
          )}
        </div>
        <aside
          aria-label="Impulse response"
          className="shrink-0 border-t border-line bg-sheet px-4 py-3 lg:w-[348px] lg:overflow-y-auto lg:border-t-0 lg:border-l"
        >
          {chosen ? (
            <ImpulseForm key={chosen.id} entry={chosen} onDelete={() => setDeleting(chosen)} />
          ) : (
            <p className="text-[13px] text-ink-2">
              Choose one to say what it is of, and to take it out as a file. The star marks a favourite, the
              bookmark puts it on the short list: at most eight that you trust.
            </p>
          )}
        </aside>
      </div>
      <Confirm
        open={deleting !== undefined}
        title={`Delete “${deleting?.note.name}”?`}
        yes="Delete it"
        onYes={() => deleting && remove.mutate([deleting.id])}
        onClose={() => setDeleting(undefined)}
      >
        {deleting?.in_blends
          ? `It is in ${deleting.in_blends} blend${deleting.in_blends > 1 ? "s" : ""}, which will lack it.`
          : "No blend uses it."}{" "}
        Its file goes from the library.
      </Confirm>
    </div>
  );
}
