import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useDeferredValue, useRef, useState } from "react";
import { Link, useSearchParams } from "react-router";
import { answer, api } from "../../api/client";
import { Confirm } from "../../parts/Confirm";
import { Button, TextInput } from "../../parts/controls";
import { LongList } from "../../parts/LongList";
import { Part } from "../../parts/Part";
import { Empty, Failed, Loading } from "../../parts/states";
import { fixed } from "../../parts/table";
import { useFileDrop } from "../../parts/useFileDrop";
import { useKeys } from "../../parts/keys";
import { ImpulseForm } from "./ImpulseForm";
import { ImpulseRow } from "./ImpulseRow";
import { SeveralForm } from "./SeveralForm";
import { onTop, useBringing, useLibrary, useNotes, type Impulse } from "./useLibrary";

const KINDS = ".wav,.flac,.aif,.aiff,.frd,.txt,audio/wav,audio/flac,audio/aiff,text/plain";
const MOST_WITHIN = 6;
/** The library of impulse responses: brought in, found, folded, named, trusted. */
export function Library() {
  const client = useQueryClient();
  const [words, setWords] = useState("");
  const [within, setWithin] = useState(1.5);
  const [open, setOpen] = useState<number[]>([]);
  const [asked] = useSearchParams();
  const [chosenId, setChosen] = useState(Number(asked.get("impulse")) || undefined);
  const [marked, setMarked] = useState<number[]>([]);
  const [deleting, setDeleting] = useState<Impulse[]>([]);
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
  const notes = useNotes(all);
  const several = all.filter((e) => marked.includes(e.id));
  useKeys({ u: notes.undo, U: notes.redo });
  const remove = useMutation({
    mutationFn: (ids: number[]) => answer(api.POST("/api/impulses/delete", { body: { ids } })),
    onSuccess: () => {
      setChosen(undefined);
      setMarked([]);
      again();
    },
  });
  const lacking = deleting.filter((e) => e.in_blends > 0).length;
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
        {list.length > 0 && (
          <Button look="quiet" onClick={() => setMarked(several.length ? [] : list.map((e) => e.id))}>
            {several.length ? "Mark none" : `Mark all ${list.length}`}
          </Button>
        )}
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
      {[bringing.error, notes.error, remove.error].map((each, i) => each && <Failed key={i} error={each} />)}
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
                <span className="w-[105px]" />
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
                    <ImpulseRow
                      entry={entry}
                      chosen={entry.id === chosenId}
                      marked={marked.includes(entry.id)}
                      onMark={() =>
                        setMarked(
                          marked.includes(entry.id)
                            ? marked.filter((each) => each !== entry.id)
                            : [...marked, entry.id],
                        )
                      }
                      unfolded={open.includes(entry.id)}
                      onChoose={() => setChosen(entry.id)}
                      onUnfold={() =>
                        setOpen(
                          open.includes(entry.id) ? open.filter((o) => o !== entry.id) : [...open, entry.id],
                        )
                      }
                      onNote={(next) => notes.change([{ id: entry.id, note: { ...entry.note, ...next } }])}
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
          {several.length > 0 ? (
            <SeveralForm
              key={several.map((e) => e.id).join(" ")}
              entries={several}
              busy={notes.busy}
              onNotes={notes.change}
              onNone={() => setMarked([])}
              onDelete={() => setDeleting(several)}
            />
          ) : chosen ? (
            <ImpulseForm
              key={`${chosen.id} ${notes.undone}`}
              entry={chosen}
              onNote={notes.change}
              onDelete={() => setDeleting([chosen])}
            />
          ) : (
            <p className="text-[13px] text-ink-2">
              Choose one to say what it is of, and to take it out as a file. The star marks a favourite, the
              bookmark puts it on the short list: at most eight that you trust. Mark several to name them at
              once.
            </p>
          )}
        </aside>
      </div>
      <Confirm
        open={deleting.length > 0}
        title={
          deleting.length === 1 ? `Delete “${deleting[0]!.note.name}”?` : `Delete ${deleting.length} of them?`
        }
        yes={deleting.length === 1 ? "Delete it" : "Delete them"}
        onYes={() => remove.mutate(deleting.map((e) => e.id))}
        onClose={() => setDeleting([])}
      >
        {lacking === 0
          ? `No blend uses ${deleting.length === 1 ? "it" : "them"}.`
          : deleting.length === 1
            ? "Blends use it, and will lack it."
            : `Blends use ${lacking} of them, and will lack those.`}{" "}
        {deleting.length === 1 ? "Its file goes" : "Their files go"} from the library; that cannot be undone.
      </Confirm>
    </div>
  );
}
