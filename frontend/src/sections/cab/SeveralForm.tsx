import { useState } from "react";
import { Button, Field, TextInput } from "../../parts/controls";
import { asNumberIfAny } from "../../parts/typed";
import { tagsOf, TEXTS } from "./ImpulseForm";
import type { Impulse } from "./useLibrary";

type Note = Impulse["note"];
type Named = Exclude<(typeof TEXTS)[number][0], "name">;

/** What several have in common is shown, and what differs says so; what is left empty stays as it is of each. */
const shared = (entries: Impulse[], of: (note: Note) => string) => {
  const found = [...new Set(entries.map((e) => of(e.note)))];
  return found.length === 1 ? found[0] || "not said" : "they differ";
};

/** What several impulse responses are of, said at once. */
export function SeveralForm({
  entries,
  busy,
  onNotes,
  onNone,
  onDelete,
}: {
  entries: Impulse[];
  busy: boolean;
  onNotes: (notes: { id: number; note: Note }[]) => Promise<void>;
  onNone: () => void;
  onDelete: () => void;
}) {
  const [texts, setTexts] = useState<Partial<Record<Named, string>>>({});
  const [distance, setDistance] = useState("");
  const [tags, setTags] = useState("");
  const [saved, setSaved] = useState(false);
  const filled = Object.fromEntries(Object.entries(texts).filter(([, text]) => text.trim()));
  const anything = Object.keys(filled).length > 0 || distance.trim() !== "" || tagsOf(tags).length > 0;
  const save = () =>
    void onNotes(
      entries.map(({ id, note }) => ({
        id,
        note: {
          ...note,
          ...filled,
          ...(distance.trim() ? { distance: asNumberIfAny(distance) } : {}),
          tags: [...new Set([...note.tags, ...tagsOf(tags)])],
        },
      })),
    ).then(
      () => setSaved(true),
      () => undefined,
    );
  return (
    <form
      aria-label="Several at once"
      className="grid gap-2 text-[13px]"
      onChange={() => setSaved(false)}
      onSubmit={(event) => {
        event.preventDefault();
        if (anything) save();
      }}
    >
      <h2 className="font-bold">{entries.length} marked</h2>
      <p className="text-[12.5px] text-ink-2">What is left empty stays as it is of each.</p>
      {TEXTS.filter(([field]) => field !== "name").map(([field, label]) => (
        <Field key={field} label={label}>
          <TextInput
            value={texts[field as Named] ?? ""}
            placeholder={shared(entries, (note) => note[field])}
            onChange={(e) => setTexts({ ...texts, [field]: e.target.value })}
          />
        </Field>
      ))}
      <Field label="Distance" unit="cm">
        <TextInput
          inputMode="decimal"
          value={distance}
          placeholder={shared(entries, (note) => (note.distance === null ? "" : String(note.distance)))}
          onChange={(e) => setDistance(e.target.value)}
        />
      </Field>
      <Field label="More tags" hint="separated by commas; those they have stay">
        <TextInput value={tags} onChange={(e) => setTags(e.target.value)} />
      </Field>
      <div className="flex flex-wrap gap-2">
        <Button look="main" type="submit" disabled={!anything || busy}>
          {saved ? "Saved" : `Say it of ${entries.length}`}
        </Button>
        <Button onClick={onNone}>Mark none</Button>
        <Button look="danger" onClick={onDelete}>
          Delete {entries.length}
        </Button>
      </div>
    </form>
  );
}
