import type { Schemas } from "../../api/client";
import { Field, FIELD, TextInput } from "../../parts/controls";
import { One, OneOf } from "../../parts/OneOf";
import { useGear } from "../locker/gear";
import { useNarrowing } from "./useLog";

type Note = Schemas["TakeNote"];
interface Props {
  note: Note;
  problem: (name: string) => string | undefined;
  onChange: (changes: Partial<Note>) => void;
}

/** What it was played on: guitars of the locker are offered, and anything may be typed. */
export function Guitar({ note, problem, onChange }: Props) {
  const owned = useGear("", "guitar", false).data?.entries ?? [];
  const fields = [
    ["guitar", "Guitar", ""],
    ["pickup", "Pickup", "neck, both …"],
    ["guitar_volume", "Volume on the guitar", "full, 7 …"],
    ["tuning", "Tuning", "standard, D …"],
  ] as const;
  return (
    <div className="grid gap-3 sm:grid-cols-2">
      {fields.map(([name, label, placeholder]) => (
        <Field key={name} label={label} problem={problem(name)}>
          <TextInput
            maxLength={name === "guitar" ? 120 : 60}
            list={name === "guitar" ? "guitars-owned" : undefined}
            placeholder={placeholder}
            value={note[name] ?? ""}
            onChange={(e) => onChange({ [name]: e.target.value })}
          />
        </Field>
      ))}
      <datalist id="guitars-owned">
        {owned.map(({ unit }) => (
          <option key={unit.id} value={unit.name} />
        ))}
      </datalist>
    </div>
  );
}

const ONE =
  "rounded-md border border-line px-2.5 py-1 text-[13px] data-[state=on]:border-ink data-[state=on]:bg-ink data-[state=on]:font-semibold data-[state=on]:text-paper";

/** Where the take stands: rated, a guide or in a guide's place, and what was done to it since. */
export function Standing({ note, own, problem, onChange }: Props & { own?: number }) {
  const there = useNarrowing().data;
  const open = (there?.open_guides ?? []).filter((guide) => guide.id !== own);
  const part = (note.part ?? "").trim().toLowerCase();
  const guides = open.toSorted(
    (a, b) =>
      Number(b.note.part?.toLowerCase() === part) - Number(a.note.part?.toLowerCase() === part) ||
      a.id - b.id,
  );
  const replaced = note.replaces;
  return (
    <>
      <div className="flex flex-wrap items-end gap-x-5 gap-y-2">
        <div>
          <p className="mb-0.5 text-[13px] font-medium">Rating</p>
          <OneOf
            label="Rating"
            value={note.rating || "none"}
            onValue={(next) => onChange({ rating: (next === "none" ? "" : next) as Note["rating"] })}
            className="flex gap-1"
          >
            {(there?.ratings ?? []).map(({ id, name }) => (
              <One key={id} value={id} className={ONE}>
                {name}
              </One>
            ))}
          </OneOf>
        </div>
        <label className="flex items-center gap-1.5 py-1 text-[13px]">
          <input
            type="checkbox"
            className="accent-[var(--deep)]"
            checked={note.guide ?? false}
            onChange={(e) => onChange({ guide: e.target.checked })}
          />
          a guide, to be replaced
        </label>
      </div>
      {(guides.length > 0 || replaced != null) && (
        <Field label="Takes the place of" problem={problem("replaces")}>
          <select
            className={FIELD}
            value={replaced ?? ""}
            onChange={(e) => onChange({ replaces: e.target.value ? Number(e.target.value) : null })}
          >
            <option value="">no guide</option>
            {replaced != null && !guides.some((g) => g.id === replaced) && (
              <option value={replaced}>the guide it replaced</option>
            )}
            {guides.map((guide) => (
              <option key={guide.id} value={guide.id}>
                {guide.number}. {guide.note.name}
                {guide.note.part && `, ${guide.note.part}`}
              </option>
            ))}
          </select>
        </Field>
      )}
      <Field label="Done afterwards" problem={problem("afterwards")}>
        <textarea
          rows={2}
          maxLength={4000}
          className={FIELD}
          placeholder="cut below 90 Hz, 3 dB of compression …"
          value={note.afterwards ?? ""}
          onChange={(e) => onChange({ afterwards: e.target.value })}
        />
      </Field>
    </>
  );
}
