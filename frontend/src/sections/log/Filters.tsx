import { useState } from "react";
import { Button, TextInput } from "../../parts/controls";
import type { Asked } from "./useLog";
import { useNarrowing } from "./useLog";

const SELECT = "max-w-[170px] rounded-md border border-line bg-sheet px-1.5 py-1";

type Choice = readonly [value: string, name: string];

function Choose({
  label,
  any,
  value,
  choices,
  onValue,
}: {
  label: string;
  any: string;
  value: string;
  choices: readonly Choice[];
  onValue: (value: string) => void;
}) {
  return (
    <select
      aria-label={label}
      className={`${SELECT} ${value ? "border-ink font-semibold" : ""}`}
      value={value}
      onChange={(event) => onValue(event.target.value)}
    >
      <option value="">{any}</option>
      {choices.map(([id, name]) => (
        <option key={id} value={id}>
          {name}
        </option>
      ))}
    </select>
  );
}

/** Words as they are typed; the address follows them, and they follow it when it is gone back or cleared. */
function Words({ value, onValue }: { value: string; onValue: (words: string) => void }) {
  const [typed, setTyped] = useState(value);
  const [seen, setSeen] = useState(value);
  if (value !== seen) {
    setSeen(value);
    setTyped(value);
  }
  return (
    <TextInput
      aria-label="Words to find"
      placeholder="Words: name, gear, knob, notes …"
      className="!w-[230px]"
      maxLength={200}
      value={typed}
      onChange={(event) => {
        setTyped(event.target.value);
        onValue(event.target.value);
      }}
    />
  );
}

const pairs = (named: { id: string; name: string }[] = []): Choice[] =>
  named.map(({ id, name }) => [id, name]);

const GUIDES: Choice[] = [
  ["guide", "guides"],
  ["open", "guides to be replaced"],
];

/** What the list is narrowed by. */
export function Filters({
  asked,
  narrowed,
  onSet,
  onClear,
}: {
  asked: Asked;
  narrowed: number;
  onSet: (changes: Record<string, string>) => void;
  onClear: () => void;
}) {
  const there = useNarrowing().data;
  // Under a finger they take as much room as the takes themselves: they are asked for.
  const [more, setMore] = useState(false);
  const tick = (name: "audio" | "clipped", label: string) => (
    <label className="flex items-center gap-1.5">
      <input
        type="checkbox"
        className="accent-[var(--deep)]"
        checked={asked[name]}
        onChange={(e) => onSet({ [name]: e.target.checked ? "yes" : "" })}
      />
      {label}
    </label>
  );
  return (
    <div role="search" className="flex flex-wrap items-center gap-x-2 gap-y-1.5 px-4 py-2 text-[13px]">
      <Words value={asked.search} onValue={(words) => onSet({ words })} />
      <Button className="!hidden touch:!inline-flex" aria-expanded={more} onClick={() => setMore(!more)}>
        {more ? "Fewer choices" : narrowed ? `More choices, ${narrowed} made` : "More choices"}
      </Button>
      <div className={`contents ${more ? "" : "touch:hidden"}`}>
        <Choose
          label="Part"
          any="every part"
          value={asked.part ?? ""}
          choices={(there?.parts ?? []).map((part) => [part, part] as const)}
          onValue={(part) => onSet({ part })}
        />
        <Choose
          label="Hook-up"
          any="every hook-up"
          value={asked.hookup ?? ""}
          choices={pairs(there?.hookups)}
          onValue={(of) => onSet({ of })}
        />
        <Choose
          label="Verdict"
          any="any verdict"
          value={asked.verdict ?? ""}
          choices={pairs(there?.verdicts)}
          onValue={(verdict) => onSet({ verdict })}
        />
        <Choose
          label="Rating"
          any="any rating"
          value={asked.rating ?? ""}
          choices={pairs(there?.ratings)}
          onValue={(rating) => onSet({ rating })}
        />
        <Choose
          label="Guides"
          any="guides and others"
          value={asked.guide ?? ""}
          choices={GUIDES}
          onValue={(guide) => onSet({ guide })}
        />
        {tick("audio", "with audio")}
        {tick("clipped", "clipped")}
      </div>
      {(narrowed > 0 || asked.search) && (
        <Button look="quiet" onClick={onClear}>
          Show all
        </Button>
      )}
    </div>
  );
}
