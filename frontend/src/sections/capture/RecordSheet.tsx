import { useRef, useState } from "react";
import { OFFLINE, Refusal, sendFile, type BenchState, type Schemas, type Take } from "../../api/client";
import { BLANK_NOTE } from "../../parts/blankNote";
import { Button, Field, FIELD, TextInput } from "../../parts/controls";
import { readLines } from "../../parts/ndjson";
import { Part } from "../../parts/Part";
import { Sheet } from "../../parts/Sheet";
import { Failed } from "../../parts/states";
import { asNumber } from "../../parts/typed";
import { SceneField, useScene } from "../bench/scenes/SceneField";
import { SessionField } from "./SessionField";

type Recording = Schemas["RecordBody"]["recording"];
type Source = Recording["source"];

const SOURCES: [Source, string][] = [
  ["built-in", "the built-in take"],
  ["direct", "a direct track, from a file"],
  ["sine", "a sine of 440 Hz"],
  ["pink", "pink noise"],
  ["sweep", "a sweep from 20 Hz to 20 kHz"],
  ["silence", "nothing: the noise and the hum"],
];
const DRIVES: [number, string][] = [
  [-12, "softly: clean"],
  [0, "at the edge"],
  [10, "driven"],
  [20, "flat out"],
];

/** Records a take through the simulated interface: what is played, how hard, at which input. */
export function RecordSheet({
  state,
  input,
  onDone,
  onClose,
}: {
  state: BenchState;
  input: string;
  onDone: (take: Take) => void;
  onClose: () => void;
}) {
  const [name, setName] = useState("");
  const [at, setAt] = useState(input);
  const [chosen, setChosen] = useState<string>();
  const { scene } = useScene(state.id, chosen);
  const [source, setSource] = useState<Source>("built-in");
  const [drive, setDrive] = useState(10);
  const [seconds, setSeconds] = useState("10");
  const [rate, setRate] = useState<Recording["rate"]>(48000);
  const [session, setSession] = useState("");
  const [part, setPart] = useState<number>();
  const [error, setError] = useState<unknown>();
  const file = useRef<HTMLInputElement>(null);
  const abort = useRef<AbortController>(undefined);
  const inputs = state.analysis.lines.map((line) => ({ id: `${line.unit}.${line.socket}`, name: line.name }));
  const usual = SOURCES.find(([id]) => id === source)![1];
  const record = async () => {
    const control = new AbortController();
    abort.current = control;
    setError(undefined);
    setPart(0);
    try {
      let direct = "";
      if (source === "direct") {
        const chosen = file.current?.files?.[0];
        if (!chosen)
          throw new Refusal(422, {
            title: "Not recorded yet",
            problems: ["Choose the file that is to be played."],
          });
        direct = (
          await sendFile<Schemas["Source"]>(
            `/api/feel/source?name=${encodeURIComponent(chosen.name)}`,
            chosen,
          )
        ).id;
      }
      const body = {
        session: session ? Number(session) : null,
        recording: {
          note: {
            ...BLANK_NOTE,
            name: name.trim() || `Simulated, ${usual}`.slice(0, 120),
            recorded_at: at,
            scene,
          },
          source,
          direct,
          drive,
          seconds: Number(asNumber(seconds)),
          rate,
        },
      } satisfies Schemas["RecordBody"];
      await readLines<Schemas["TakeLine"]>(
        `/api/hookups/${state.id}/record`,
        body,
        control.signal,
        (line) => {
          if (typeof line.part === "number") setPart(line.part);
          if (line.take) onDone(line.take);
        },
      );
    } catch (problem) {
      if (!control.signal.aborted) setError(problem instanceof Refusal ? problem : OFFLINE);
    } finally {
      setPart(undefined);
    }
  };
  return (
    <Sheet
      open
      onClose={() => {
        abort.current?.abort();
        onClose();
      }}
      title="Record a take, simulated"
      about="A stand-in plays through this hook-up as it is set and records it, with errors of its own. Its takes are marked simulated."
    >
      <form
        className="grid grid-cols-2 gap-x-3 gap-y-2.5"
        onSubmit={(event) => {
          event.preventDefault();
          void record();
        }}
      >
        <div className="col-span-2">
          <Field label="Take">
            <TextInput
              value={name}
              maxLength={120}
              placeholder={`Simulated, ${usual}`}
              onChange={(e) => setName(e.target.value)}
            />
          </Field>
        </div>
        <Field label="Played">
          <select className={FIELD} value={source} onChange={(e) => setSource(e.target.value as Source)}>
            {SOURCES.map(([id, label]) => (
              <option key={id} value={id}>
                {label}
              </option>
            ))}
          </select>
        </Field>
        <Field label="How hard">
          <select
            className={FIELD}
            value={drive}
            disabled={source === "silence"}
            onChange={(e) => setDrive(Number(e.target.value))}
          >
            {DRIVES.map(([db, label]) => (
              <option key={db} value={db}>
                {label}
              </option>
            ))}
          </select>
        </Field>
        {source === "direct" ? (
          <Field label="Direct track" hint="WAV, FLAC or AIFF, up to 3 minutes.">
            <input ref={file} type="file" accept=".wav,.flac,.aif,.aiff" className="text-[12.5px]" />
          </Field>
        ) : (
          <Field label="Length" unit="s">
            <TextInput inputMode="decimal" value={seconds} onChange={(e) => setSeconds(e.target.value)} />
          </Field>
        )}
        <Field label="Sample rate">
          <select
            className={FIELD}
            value={rate}
            onChange={(e) => setRate(Number(e.target.value) as Recording["rate"])}
          >
            <option value={44100}>44.1 kHz</option>
            <option value={48000}>48 kHz</option>
            <option value={96000}>96 kHz</option>
          </select>
        </Field>
        <Field label="Recorded at">
          <select className={FIELD} value={at} onChange={(e) => setAt(e.target.value)}>
            {inputs.map((each) => (
              <option key={each.id} value={each.id}>
                {each.name}
              </option>
            ))}
          </select>
        </Field>
        <SceneField hookup={state.id} chosen={chosen} onChoose={setChosen} />
        <SessionField value={session} onChange={setSession} />
        <div className="col-span-2 mt-1">
          {error !== undefined && <Failed error={error} />}
          {part === undefined ? (
            <div className="flex justify-end gap-2">
              <Button onClick={onClose}>Leave it</Button>
              <Button look="main" type="submit">
                Record it
              </Button>
            </div>
          ) : (
            <Part what="Recording" part={part} onStop={() => abort.current?.abort()} />
          )}
        </div>
      </form>
    </Sheet>
  );
}
