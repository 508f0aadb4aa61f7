import { useState } from "react";
import { Refusal } from "../../api/client";
import { Button, Field, FIELD, Key, TextInput } from "../../parts/controls";
import { asNumber, asNumberIfAny } from "../../parts/typed";
import { useHookups } from "../bench/HookupMenu";
import { WISH } from "../bench/useFinder";
import { SceneField } from "../bench/scenes/SceneField";
import { WishFields } from "./WishFields";
import type { Part, Plan, PlanEdits } from "./usePlan";

const ROLES: Record<Part["role"], string> = {
  main: "main part",
  double: "double",
  lead: "lead",
  harmony: "harmony",
  guide: "guide",
  other: "other",
};
const TAILS: Record<Part["tails"], string> = {
  "": "not said",
  after: "after the power stage",
  before: "before it",
  before_on_purpose: "before it, on purpose",
};

/** Numbers as they were typed: what is wrong with them the server says. */
const NUMBERS = ["find", "play", "choose", "pan"] as const;

/** What is said of a part. It is saved as a whole, or not at all. */
export function PartForm({
  plan,
  part,
  edits,
  onDrop,
  onClose,
}: {
  plan: Plan;
  part: Part;
  edits: PlanEdits;
  onDrop: () => void;
  onClose: () => void;
}) {
  const [now, setNow] = useState(part);
  const [typed, setTyped] = useState(
    () =>
      ({
        ...Object.fromEntries(NUMBERS.map((key) => [key, String(part[key])])),
        took: part.took == null ? "" : String(part.took),
      }) as Record<(typeof NUMBERS)[number] | "took", string>,
  );
  const [song, setSong] = useState("");
  const hookups = useHookups().data?.entries ?? [];
  const set = (next: Partial<Part>) => setNow({ ...now, ...next });
  const others = plan.project.songs.flatMap((s) =>
    s.parts
      .filter((p) => p.id !== part.id)
      .map((p) => ({ ...p, song: s.name, mine: s.parts.some((x) => x.id === part.id) })),
  );
  const refusal = edits.change.error instanceof Refusal ? edits.change.error : undefined;
  const problem = (label: string) =>
    refusal?.problems.find((said) => said.includes(`${label}:`) || said.includes(`, ${label}`));
  const way = now.hookup ? "hookup" : now.wish ? "wish" : "said";
  const minutes = (key: "find" | "play" | "choose" | "took", label: string) => (
    <Field label={label} unit="min" problem={problem(label)}>
      <TextInput
        inputMode="numeric"
        value={typed[key]}
        onChange={(event) => setTyped({ ...typed, [key]: event.target.value })}
      />
    </Field>
  );
  return (
    <form
      aria-label={`Part “${part.name}”`}
      className="grid gap-2.5 p-4"
      onSubmit={(event) => {
        event.preventDefault();
        const numbers = Object.fromEntries(NUMBERS.map((key) => [key, asNumber(typed[key])]));
        const made = { ...now, ...numbers, took: asNumberIfAny(typed.took) } as Part;
        edits.change.mutate([{ op: "set_part", part: made, song }], { onSuccess: onClose });
      }}
    >
      <div className="flex items-center justify-between">
        <h2 className="text-[15px] font-bold">The part</h2>
        <Button look="quiet" onClick={onClose}>
          Close
        </Button>
      </div>
      <Field label="Part" problem={problem("Part")}>
        <TextInput
          maxLength={80}
          required
          value={now.name}
          onChange={(event) => set({ name: event.target.value })}
        />
      </Field>
      <div className="grid grid-cols-2 gap-2">
        <Field label="Role">
          <select
            className={FIELD}
            value={now.role}
            onChange={(event) => set({ role: event.target.value as Part["role"] })}
          >
            {Object.entries(ROLES).map(([role, name]) => (
              <option key={role} value={role}>
                {name}
              </option>
            ))}
          </select>
        </Field>
        <Field label="Song">
          <select className={FIELD} value={song} onChange={(event) => setSong(event.target.value)}>
            <option value="">as it is</option>
            {plan.project.songs
              .filter((s) => !s.parts.some((p) => p.id === part.id))
              .map((s) => (
                <option key={s.id} value={s.id}>
                  {s.name}
                </option>
              ))}
          </select>
        </Field>
      </div>
      {now.role === "double" && (
        <Field label="Double of" hint="Doubles want less drive than the main part: two of the same add up.">
          <select
            className={FIELD}
            value={now.double_of}
            onChange={(event) => set({ double_of: event.target.value })}
          >
            <option value="">not said</option>
            {others
              .filter((p) => p.mine && !p.double_of)
              .map((p) => (
                <option key={p.id} value={p.id}>
                  {p.name}
                </option>
              ))}
          </select>
        </Field>
      )}
      <Field label="Through" hint="How loud it is, how warm boxes get and which leads move follow from it.">
        <select
          className={FIELD}
          value={way === "hookup" ? now.hookup : way}
          onChange={(event) => {
            const chosen = event.target.value;
            if (chosen === "said") set({ hookup: "", scene: "", wish: null });
            else if (chosen === "wish") set({ hookup: "", scene: "", wish: now.wish ?? WISH, sounds: "" });
            else set({ hookup: chosen, scene: "", wish: null, sounds: "" });
          }}
        >
          <option value="said">no hook-up yet</option>
          <option value="wish">whatever is found for a wish</option>
          {now.hookup && !hookups.some((h) => h.id === now.hookup) && (
            <option value={now.hookup}>its hook-up is gone</option>
          )}
          {hookups.map((h) => (
            <option key={h.id} value={h.id}>
              {h.name}
            </option>
          ))}
        </select>
      </Field>
      {way === "hookup" && (
        <SceneField hookup={now.hookup} chosen={now.scene} onChoose={(scene) => set({ scene })} />
      )}
      {way === "wish" && now.wish && <WishFields wish={now.wish} onWish={(wish) => set({ wish })} />}
      {way === "said" && (
        <Field label="It is" hint="Until a hook-up says it: nothing of this is computed.">
          <select
            className={FIELD}
            value={now.sounds}
            onChange={(event) => set({ sounds: event.target.value as Part["sounds"] })}
          >
            <option value="">taken as silent</option>
            <option value="silent">silent</option>
            <option value="loud">loud</option>
          </select>
        </Field>
      )}
      <div className="grid grid-cols-3 items-end gap-2">
        {minutes("find", "Finding it")}
        {minutes("play", "Playing")}
        {minutes("choose", "Choosing later")}
      </div>
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          className="size-4 accent-[var(--deep)]"
          checked={now.must}
          onChange={(event) => set({ must: event.target.checked })}
        />
        It must be in
      </label>
      {others.length > 0 && (
        <fieldset>
          <legend className="mb-1 text-[13px] font-medium">It comes after</legend>
          <ul className="grid max-h-[130px] gap-0.5 overflow-y-auto rounded-md border border-line p-1.5 text-[13px]">
            {others.map((p) => (
              <li key={p.id}>
                <label className="flex min-h-6 items-center gap-2">
                  <input
                    type="checkbox"
                    className="accent-[var(--deep)]"
                    checked={now.after.includes(p.id)}
                    onChange={(event) =>
                      set({
                        after: event.target.checked
                          ? [...now.after, p.id]
                          : now.after.filter((each) => each !== p.id),
                      })
                    }
                  />
                  {p.mine ? p.name : `${p.song}, ${p.name}`}
                </label>
              </li>
            ))}
          </ul>
        </fieldset>
      )}
      {plan.project.people.length > 0 && (
        <fieldset>
          <legend className="mb-1 text-[13px] font-medium">With</legend>
          {plan.project.people.map((person) => (
            <label key={person.id} className="flex min-h-6 items-center gap-2 text-[13px]">
              <input
                type="checkbox"
                className="accent-[var(--deep)]"
                checked={now.people.includes(person.id)}
                onChange={(event) =>
                  set({
                    people: event.target.checked
                      ? [...now.people, person.id]
                      : now.people.filter((each) => each !== person.id),
                  })
                }
              />
              {person.name}
            </label>
          ))}
        </fieldset>
      )}
      <details>
        <summary className="cursor-pointer text-[13px] font-medium">
          Guitar, pan, tails, notes, how long it took
        </summary>
        <div className="mt-2 grid gap-2.5">
          <div className="grid grid-cols-2 gap-2">
            <Field label="Guitar">
              <TextInput
                maxLength={80}
                value={now.guitar}
                onChange={(event) => set({ guitar: event.target.value })}
              />
            </Field>
            <Field label="Tuning">
              <TextInput
                maxLength={60}
                value={now.tuning}
                onChange={(event) => set({ tuning: event.target.value })}
              />
            </Field>
            <Field label="Pan" unit="%, left is below 0" problem={problem("Pan")}>
              <TextInput
                value={typed.pan}
                onChange={(event) => setTyped({ ...typed, pan: event.target.value })}
              />
            </Field>
            <Field label="Tails">
              <select
                className={FIELD}
                value={now.tails}
                onChange={(event) => set({ tails: event.target.value as Part["tails"] })}
              >
                {Object.entries(TAILS).map(([tails, name]) => (
                  <option key={tails} value={tails}>
                    {name}
                  </option>
                ))}
              </select>
            </Field>
          </div>
          <Field label="Notes" hint="They stay here: no calendar has them.">
            <textarea
              rows={2}
              maxLength={2000}
              className={FIELD}
              value={now.notes}
              onChange={(event) => set({ notes: event.target.value })}
            />
          </Field>
          {minutes("took", "It took")}
          <Field label="Done">
            <select
              className={FIELD}
              value={now.done == null ? "" : String(now.done)}
              onChange={(event) =>
                set({ done: event.target.value === "" ? null : event.target.value === "true" })
              }
            >
              <option value="">once there is a take of it</option>
              <option value="true">yes</option>
              <option value="false">no, whatever takes there are</option>
            </select>
          </Field>
        </div>
      </details>
      {refusal && (
        <ul role="alert" className="grid gap-1 text-[13px] font-medium text-stop">
          {refusal.problems.map((said) => (
            <li key={said}>{said}</li>
          ))}
        </ul>
      )}
      <div className="flex flex-wrap gap-2">
        <Button look="main" type="submit" disabled={edits.change.isPending}>
          Save the part <Key>Enter</Key>
        </Button>
        <Button look="danger" onClick={onDrop}>
          Take it out …
        </Button>
      </div>
    </form>
  );
}
