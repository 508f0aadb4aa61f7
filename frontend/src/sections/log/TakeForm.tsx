import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Plus, Trash2 } from "lucide-react";
import { useRef, useState } from "react";
import { answer, api, OFFLINE, Refusal, type Schemas, type Session, type Take } from "../../api/client";
import { BLANK_NOTE } from "../../parts/blankNote";
import { bringIn } from "../../parts/bringIn";
import { Button, Field, FIELD, TextInput } from "../../parts/controls";
import { readLines } from "../../parts/ndjson";
import { Part } from "../../parts/Part";
import { Failed } from "../../parts/states";
import { SceneField, useScene } from "../bench/scenes/SceneField";
import { useHookups } from "../bench/HookupMenu";
import { asNumberIfAny } from "../../parts/typed";
import { Guitar, Standing } from "./Said";

type Note = Schemas["TakeNote"];

const USUAL = ["Gain", "Bass", "Middle", "Treble", "Master"].map((name) => ({ name, value: "" }));

interface Props {
  session: Session;
  /** Missing for a new take. */
  take?: Take;
  /** The last take, whose controls a new one begins with. */
  before?: Take;
  /** The guide that a new take replaces. */
  replaces?: number;
  hookup: string | null;
  onDone: (take: Take) => void;
  onClose: () => void;
}

/** A new take of a hook-up as it stands, or what is said about a take already logged. */
export function TakeForm({ session, take, before, replaces, hookup, onDone, onClose }: Props) {
  const [note, setNote] = useState<Note>(
    () =>
      take?.note ?? {
        ...BLANK_NOTE,
        part: before?.note.part ?? "",
        controls: before?.note.controls ?? USUAL,
        replaces: replaces ?? null,
        // What was played on is as it was a take ago, as a rule.
        guitar: before?.note.guitar ?? "",
        pickup: before?.note.pickup ?? "",
        guitar_volume: before?.note.guitar_volume ?? "",
        tuning: before?.note.tuning ?? "",
      },
  );
  const hookups = useHookups();
  const [of, setOf] = useState(hookup ?? "");
  const chosen = of || hookups.data?.entries[0]?.id || "";
  const [sceneChosen, setSceneChosen] = useState<string>();
  const { scene } = useScene(chosen, sceneChosen);
  const [peak, setPeak] = useState(
    note.measured_peak === null || note.measured_peak === undefined ? "" : String(note.measured_peak),
  );
  /** The take as it was when the form was opened, or as it was found when another window had changed it. */
  const [seen, setSeen] = useState(take);
  const [overtaken, setOvertaken] = useState<Take>();
  const [start, setStart] = useState(String(note.song_start ?? ""));
  const [part, setPart] = useState<number>();
  const file = useRef<HTMLInputElement>(null);
  const client = useQueryClient();
  const save = useMutation({
    mutationFn: async () => {
      const body = { ...note, measured_peak: asNumberIfAny(peak), song_start: asNumberIfAny(start) };
      const logged = seen
        ? await answer(
            api.PUT("/api/takes/{take_id}", {
              params: { path: { take_id: seen.id }, query: { saves: seen.saves } },
              body,
            }),
          )
        : await answer(
            api.POST("/api/sessions/{session_id}/takes", {
              params: { path: { session_id: session.id } },
              body: { hookup: chosen, note: { ...body, scene } },
            }),
          );
      const audio = file.current?.files?.[0];
      if (!audio) return { logged, audioError: undefined };
      // The take is logged already; a file that is refused must not take it away again.
      try {
        return { logged: await attach(logged.id, audio, seen?.audio ?? "", setPart), audioError: undefined };
      } catch (error) {
        return { logged, audioError: error };
      }
    },
    onSuccess: ({ logged, audioError }) => {
      void client.invalidateQueries({
        predicate: (q) =>
          ["takes", "take", "sessions", "report", "hookup", "hookups", "capture"].includes(
            String(q.queryKey[0]),
          ),
      });
      if (!audioError) onDone(logged);
    },
    onError: async (error) => {
      if (!(seen && error instanceof Refusal && error.status === 409)) return;
      const now = await answer(
        api.GET("/api/takes/{take_id}", { params: { path: { take_id: seen.id } } }),
      ).catch(() => undefined);
      setOvertaken(now);
    },
  });
  const show = (its: Note) => {
    setNote(its);
    setPeak(its.measured_peak === null || its.measured_peak === undefined ? "" : String(its.measured_peak));
    setStart(String(its.song_start ?? ""));
  };
  if (overtaken) {
    return (
      <Overtaken
        now={overtaken}
        onMine={() => {
          setSeen(overtaken);
          setOvertaken(undefined);
          save.reset();
        }}
        onTheirs={() => {
          setSeen(overtaken);
          show(overtaken.note);
          setOvertaken(undefined);
          save.reset();
        }}
      />
    );
  }
  const refusal = save.error instanceof Refusal ? save.error : undefined;
  const problem = (name: string) => {
    const at = refusal?.fields.findIndex((f) => f.includes(name)) ?? -1;
    return at >= 0 ? refusal?.problems[at] : undefined;
  };
  const controls = note.controls ?? [];
  const setControl = (i: number, next: Partial<Schemas["ControlSetting"]>) =>
    setNote({ ...note, controls: controls.map((c, at) => (at === i ? { ...c, ...next } : c)) });
  if (save.data?.audioError) {
    return (
      <div className="p-4">
        <p className="font-semibold">The take is logged, its audio was not taken:</p>
        <Failed error={save.data.audioError} />
        <Button look="main" onClick={() => onDone(save.data.logged)}>
          Go to the take
        </Button>
      </div>
    );
  }
  return (
    <form
      aria-label={take ? `Edit take ${take.number}` : "New take"}
      className="grid gap-3 p-5"
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      <h2 className="text-[19px] font-bold">
        {take ? `Take ${take.number}` : `New take in “${session.name}”`}
      </h2>
      {!take && (
        <Field
          label="Hook-up"
          hint="Its leads, settings, gear and results are kept with the take as they stand now."
        >
          <select className={FIELD} value={chosen} onChange={(event) => setOf(event.target.value)}>
            {hookups.data?.entries.map((entry) => (
              <option key={entry.id} value={entry.id}>
                {entry.name} ({entry.words.toLowerCase()})
              </option>
            ))}
          </select>
        </Field>
      )}
      {take ? (
        take.note.scene && (
          <p className="text-[13px] text-ink-2">
            In scene <b className="text-ink">{take.note.scene}</b>, as its hook-up was.
          </p>
        )
      ) : (
        <SceneField
          hookup={chosen}
          chosen={sceneChosen}
          problem={problem("scene")}
          onChoose={setSceneChosen}
        />
      )}
      <div className="grid gap-3 sm:grid-cols-2">
        <Field label="Take" problem={problem("name")}>
          <TextInput
            autoFocus
            maxLength={120}
            value={note.name}
            onChange={(e) => setNote({ ...note, name: e.target.value })}
          />
        </Field>
        <Field label="Part">
          <TextInput
            maxLength={120}
            value={note.part}
            placeholder="main, double left …"
            onChange={(e) => setNote({ ...note, part: e.target.value })}
          />
        </Field>
      </div>
      <fieldset>
        <legend className="mb-1 text-[13px] font-medium">Controls on the amp</legend>
        <div className="grid gap-1.5 sm:grid-cols-2">
          {controls.map((control, i) => (
            <div key={i} className="flex gap-1">
              <TextInput
                aria-label={`Control ${i + 1}, name`}
                value={control.name}
                maxLength={60}
                onChange={(e) => setControl(i, { name: e.target.value })}
              />
              <TextInput
                aria-label={`${control.name || `Control ${i + 1}`}, set to`}
                placeholder="set to"
                className="!w-24"
                maxLength={60}
                value={control.value}
                onChange={(e) => setControl(i, { value: e.target.value })}
              />
              <Button
                look="quiet"
                className="!px-1"
                aria-label={`Remove ${control.name}`}
                onClick={() => setNote({ ...note, controls: controls.filter((_, at) => at !== i) })}
              >
                <Trash2 size={14} />
              </Button>
            </div>
          ))}
        </div>
        {problem("controls") && (
          <p role="alert" className="text-[12.5px] text-stop">
            {problem("controls")}
          </p>
        )}
        <Button
          look="quiet"
          onClick={() => setNote({ ...note, controls: [...controls, { name: "", value: "" }] })}
        >
          <Plus size={14} /> Another control
        </Button>
      </fieldset>
      <div className="grid gap-3 sm:grid-cols-2">
        <Field label="Audio file" hint="WAV, FLAC or AIFF, up to 30 minutes. It is inspected.">
          <input
            ref={file}
            type="file"
            accept=".wav,.flac,.aif,.aiff,audio/*"
            className="w-full text-[13px] file:mr-2 file:rounded-md file:border file:border-line file:bg-paper file:px-2 file:py-1"
          />
        </Field>
        <Field
          label="Measured peak"
          unit="dBFS"
          problem={problem("measured_peak")}
          hint="Where there is no file: as read off the meter."
        >
          <TextInput inputMode="decimal" value={peak} onChange={(event) => setPeak(event.target.value)} />
        </Field>
        <Field label="Starts in the song at" unit="s" problem={problem("song_start")}>
          <TextInput inputMode="decimal" value={start} onChange={(event) => setStart(event.target.value)} />
        </Field>
      </div>
      <Guitar note={note} problem={problem} onChange={(its) => setNote({ ...note, ...its })} />
      <Standing
        note={note}
        own={take?.id}
        problem={problem}
        onChange={(its) => setNote({ ...note, ...its })}
      />
      <Field label="Notes">
        <textarea
          rows={3}
          maxLength={8000}
          className={FIELD}
          value={note.notes}
          onChange={(event) => setNote({ ...note, notes: event.target.value })}
        />
      </Field>
      {refusal && refusal.fields.length === 0 && <Failed error={refusal} />}
      {save.isPending && part !== undefined && <Part what="Taking the recording in" part={part} />}
      <div className="flex gap-2">
        <Button look="main" type="submit" disabled={save.isPending || (!take && !chosen)}>
          {save.isPending ? "Saving …" : take ? "Save" : "Log the take"}
        </Button>
        <Button onClick={onClose}>Discard changes</Button>
      </div>
    </form>
  );
}

/** What another window has said of the take meanwhile, and whose words are to go on. */
function Overtaken({ now, onMine, onTheirs }: { now: Take; onMine: () => void; onTheirs: () => void }) {
  const said: [string, string][] = [
    ["Take", now.note.name],
    ["Part", now.note.part ?? ""],
    ["Controls", (now.note.controls ?? []).map((c) => `${c.name} ${c.value}`).join(", ")],
    ["Measured peak", now.note.measured_peak == null ? "" : `${now.note.measured_peak} dBFS`],
    ["Guitar", [now.note.guitar, now.note.pickup, now.note.guitar_volume].filter(Boolean).join(", ")],
    ["Tuning", now.note.tuning ?? ""],
    ["Rating", [now.note.guide && "guide", now.note.rating].filter(Boolean).join(", ")],
    ["Done afterwards", now.note.afterwards ?? ""],
    ["Notes", now.note.notes ?? ""],
  ];
  return (
    <section aria-label="Changed in another window" role="alert" className="grid gap-3 p-5">
      <h2 className="text-[19px] font-bold">Take {now.number} was changed in another window</h2>
      <p>Nothing of yours is lost, and nothing of theirs is overwritten yet. It says now:</p>
      <dl className="grid grid-cols-[130px_1fr] gap-y-1">
        {said.map(([name, value]) => (
          <div key={name} className="contents">
            <dt className="text-ink-2">{name}</dt>
            <dd className="font-semibold whitespace-pre-wrap">{value || "nothing"}</dd>
          </div>
        ))}
      </dl>
      <div className="flex flex-wrap gap-2">
        <Button look="main" onClick={onTheirs}>
          Go on with theirs
        </Button>
        <Button onClick={onMine}>Go on with mine</Button>
      </div>
    </section>
  );
}

/** Gives a take its audio, in place of what it had when it was looked at; piece by piece, since it may be large. */
async function attach(
  takeId: number,
  audio: File,
  replaced: string,
  onPart: (part: number) => void,
): Promise<Take> {
  const upload = await bringIn(
    audio,
    true,
    (part) => onPart(part / 2),
    () => false,
  );
  let made: Take | undefined;
  const body = { upload, file_name: audio.name, replaced } satisfies Schemas["GiveBody"];
  await readLines<Schemas["TakeLine"]>(
    `/api/takes/${takeId}/recording`,
    body,
    new AbortController().signal,
    (line) => {
      if (typeof line.part === "number") onPart(0.5 + line.part / 2);
      if (line.take) made = line.take;
    },
  );
  if (!made) throw OFFLINE;
  return made;
}
