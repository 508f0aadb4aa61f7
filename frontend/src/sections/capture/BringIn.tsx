import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../../api/client";
import { BLANK_NOTE } from "../../parts/blankNote";
import { Button, Field, FIELD, TextInput } from "../../parts/controls";
import { Sheet } from "../../parts/Sheet";
import { asNumberIfAny } from "../../parts/typed";
import { SceneField } from "../bench/scenes/SceneField";
import { SessionField } from "./SessionField";
import { useHookups } from "../bench/HookupMenu";
import { bringing } from "./bringing";

interface Row {
  file: File;
  name: string;
  part: string;
  hookup: string;
  recordedAt: string;
  scene: string | undefined;
  start: string;
}

/** Files that are to become takes: each with its name, part, hook-up and input, as guessed by the file's name. */
export function BringIn({
  files,
  hookup,
  inputs = [],
  onClose,
}: {
  files: File[];
  /** The hook-up they are of where a name says nothing of one. */
  hookup: string;
  /** Its inputs, where it matters at which of them they were recorded. */
  inputs?: readonly { id: string; name: string }[];
  onClose: () => void;
}) {
  const hookups = useHookups();
  const names = files.map((file) => file.name.slice(0, 300));
  const guesses = useQuery({
    queryKey: ["takes", "guesses", names],
    queryFn: () => answer(api.POST("/api/recordings/guesses", { body: { files: names } })),
    staleTime: Infinity,
  });
  const entries = hookups.data?.entries ?? [];
  const [typed, setTyped] = useState<Partial<Row>[]>(() => files.map(() => ({})));
  const [session, setSession] = useState("");
  const rows: Row[] = files.map((file, i) => ({
    file,
    name: guesses.data?.files[i]?.name ?? file.name,
    part: guesses.data?.files[i]?.part ?? "",
    hookup: guesses.data?.files[i]?.hookup || hookup,
    recordedAt: "",
    scene: undefined,
    start: "",
    ...typed[i],
  }));
  const set = (i: number, change: Partial<Row>) =>
    setTyped(typed.map((each, n) => (n === i ? { ...each, ...change } : each)));
  const unnamed = rows.findIndex((row) => !row.name.trim());
  const begin = () => {
    bringing.add(
      rows.map((row) => ({
        file: row.file,
        hookup: row.hookup,
        session: session ? Number(session) : undefined,
        note: {
          ...BLANK_NOTE,
          name: row.name.trim(),
          part: row.part,
          recorded_at: row.recordedAt,
          scene: row.scene ?? entries.find((each) => each.id === row.hookup)?.scene ?? "",
          song_start: asNumberIfAny(row.start),
        },
      })),
    );
    onClose();
  };
  return (
    <Sheet
      open
      wide
      onClose={onClose}
      title={files.length === 1 ? "Bring in a file as a take" : `Bring in ${files.length} files as takes`}
      about="WAV, FLAC or AIFF, up to 30 minutes of stereo at 96 kHz. Each is inspected and kept with its hook-up as it stands now."
    >
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (unnamed < 0) begin();
        }}
      >
        <ul className="flex max-h-[46vh] flex-col gap-3 overflow-y-auto">
          {rows.map((row, i) => (
            <li key={`${row.file.name}${i}`} className="border-t border-line pt-2 first:border-t-0">
              <p className="mb-1 truncate text-[12.5px] text-ink-2" title={row.file.name}>
                {row.file.name}, {(row.file.size / 1e6).toFixed(1)} MB
              </p>
              <div className="grid grid-cols-2 gap-2 sm:grid-cols-[1.3fr_1fr_1.3fr_90px]">
                <Field label="Take" problem={row.name.trim() ? undefined : "A name is wanted."}>
                  <TextInput
                    value={row.name}
                    maxLength={120}
                    onChange={(e) => set(i, { name: e.target.value })}
                  />
                </Field>
                <Field label="Part">
                  <TextInput
                    list="parts-there-are"
                    value={row.part}
                    maxLength={120}
                    onChange={(e) => set(i, { part: e.target.value })}
                  />
                </Field>
                <Field label="Hook-up">
                  <select
                    className={FIELD}
                    value={row.hookup}
                    onChange={(e) => set(i, { hookup: e.target.value, recordedAt: "", scene: undefined })}
                  >
                    {entries.map((each) => (
                      <option key={each.id} value={each.id}>
                        {each.name}
                      </option>
                    ))}
                  </select>
                </Field>
                <Field label="Starts at" unit="s">
                  <TextInput
                    inputMode="decimal"
                    value={row.start}
                    placeholder="in the song"
                    title="Where in the song it starts; left empty, what the file says of it, where it does"
                    onChange={(e) => set(i, { start: e.target.value })}
                  />
                </Field>
                <SceneField hookup={row.hookup} chosen={row.scene} onChoose={(scene) => set(i, { scene })} />
                {row.hookup === hookup && inputs.length > 1 && (
                  <Field label="Recorded at">
                    <select
                      className={FIELD}
                      value={row.recordedAt}
                      onChange={(e) => set(i, { recordedAt: e.target.value })}
                    >
                      <option value="">the input that is expected loudest</option>
                      {inputs.map((each) => (
                        <option key={each.id} value={each.id}>
                          {each.name}
                        </option>
                      ))}
                    </select>
                  </Field>
                )}
              </div>
            </li>
          ))}
        </ul>
        <datalist id="parts-there-are">
          {guesses.data?.parts.map((part) => (
            <option key={part} value={part} />
          ))}
        </datalist>
        <div className="mt-3 flex flex-wrap items-end gap-3">
          <SessionField value={session} onChange={setSession} />
          <span className="ml-auto flex gap-2">
            <Button onClick={onClose}>Leave it</Button>
            <Button look="main" type="submit" disabled={unnamed >= 0 || !hookups.data || guesses.isPending}>
              {files.length === 1 ? "Bring it in" : "Bring them in"}
            </Button>
          </span>
        </div>
      </form>
    </Sheet>
  );
}
