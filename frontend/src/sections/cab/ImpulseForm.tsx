import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Refusal } from "../../api/client";
import { Button, Field, FIELD, TextInput } from "../../parts/controls";
import { fixed } from "../../parts/table";
import { asNumberIfAny } from "../../parts/typed";
import type { Impulse } from "./useLibrary";

export const TEXTS = [
  ["name", "Name"],
  ["cabinet", "Cabinet"],
  ["driver", "Driver"],
  ["microphone", "Microphone"],
  ["axis", "Axis"],
  ["room", "Room"],
  ["source", "Source"],
  ["licence", "Licence"],
] as const;

/** Tags as they are typed. */
export const tagsOf = (text: string) =>
  text
    .split(",")
    .map((tag) => tag.trim())
    .filter(Boolean);

/** What an impulse response is of, and what it is like. */
export function ImpulseForm({
  entry,
  onNote,
  onDelete,
}: {
  entry: Impulse;
  onNote: (notes: { id: number; note: Impulse["note"] }[]) => Promise<void>;
  onDelete: () => void;
}) {
  const [note, setNote] = useState(entry.note);
  const [distance, setDistance] = useState(entry.note.distance === null ? "" : String(entry.note.distance));
  const [tags, setTags] = useState(entry.note.tags.join(", "));
  const save = useMutation({
    mutationFn: () =>
      onNote([
        {
          id: entry.id,
          note: {
            ...note,
            favourite: entry.note.favourite,
            listed: entry.note.listed,
            distance: asNumberIfAny(distance),
            tags: tagsOf(tags),
          },
        },
      ]),
  });
  const wrong = (field: string) => {
    const found = save.error instanceof Refusal ? save.error : undefined;
    const at = found?.fields.findIndex((path) => path.at(-1) === field || path[0] === field) ?? -1;
    return at >= 0 ? found?.problems[at] : undefined;
  };
  const facts: [string, string][] = [
    ["file", `${fixed(entry.seconds * 1000, 0)} ms at ${entry.rate / 1000} kHz`],
    ["begins", `${fixed(entry.onset, 2)} ms in`],
    ["polarity", entry.inverted ? "its first peak points down" : "its first peak points up"],
    ["centre of the tone", `${Math.round(entry.centroid)} Hz`],
    ["first 5 ms over the rest", `${fixed(entry.early_late, 1)} dB`],
    ["to be as loud as what goes in", `${fixed(entry.programme_gain, 1)} dB`],
  ];
  return (
    <form
      className="grid gap-2 text-[13px]"
      // What is typed after it was saved is not.
      onChange={() => save.isSuccess && save.reset()}
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}
    >
      {TEXTS.map(([field, label]) => (
        <Field key={field} label={label} problem={wrong(field)}>
          <TextInput value={note[field]} onChange={(e) => setNote({ ...note, [field]: e.target.value })} />
        </Field>
      ))}
      <Field label="Distance" unit="cm" problem={wrong("distance")}>
        <TextInput inputMode="decimal" value={distance} onChange={(e) => setDistance(e.target.value)} />
      </Field>
      <Field label="Tags" hint="separated by commas" problem={wrong("tags")}>
        <TextInput value={tags} onChange={(e) => setTags(e.target.value)} />
      </Field>
      <Field label="Notes" problem={wrong("notes")}>
        <textarea
          rows={2}
          className={FIELD}
          value={note.notes}
          onChange={(e) => setNote({ ...note, notes: e.target.value })}
        />
      </Field>
      <div className="flex flex-wrap gap-2">
        <Button look="main" type="submit" disabled={save.isPending}>
          {save.isSuccess ? "Saved" : "Save"}
        </Button>
        <Button look="danger" onClick={onDelete}>
          Delete
        </Button>
      </div>
      <dl className="mt-1 border-t border-line pt-2">
        {facts.map(([name, value]) => (
          <div key={name} className="flex justify-between gap-3 py-0.5">
            <dt className="text-ink-2">{name}</dt>
            <dd className="text-right">{value}</dd>
          </div>
        ))}
      </dl>
      <p className="flex flex-wrap gap-x-3">
        <a className="text-deep underline" href={`/api/impulses/${entry.id}/response.frd`} download>
          Response as FRD
        </a>
        <a className="text-deep underline" href={`/api/impulses/${entry.id}/file.wav`} download>
          WAV at 48 kHz
        </a>
      </p>
    </form>
  );
}
