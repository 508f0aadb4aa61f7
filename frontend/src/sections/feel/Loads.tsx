import { useState } from "react";
import { TextInput } from "../../parts/controls";
import { Stroke } from "../../parts/Stroke";
import type { Feel, FeelState } from "./useFeel";

const GROUPS = [
  ["resistor", "For comparison"],
  ["load", "Loads, every mode"],
  ["cabinet", "Cabinets"],
] as const;

/** Every load in every mode and every cabinet: which are drawn, and what each does in words. */
export function Loads({
  state,
  picked,
  onPick,
}: {
  state: FeelState;
  picked: string[];
  onPick: (id: string) => void;
}) {
  const [words, setWords] = useState("");
  const all = state.feels.feels.filter((f) =>
    words
      .toLowerCase()
      .split(/\s+/)
      .every((w) => f.label.toLowerCase().includes(w)),
  );
  const item = (feel: Feel) => {
    const at = picked.indexOf(feel.id);
    return (
      <li key={feel.id} className="border-t border-line px-4 py-1.5">
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            className="accent-[var(--deep)]"
            checked={at >= 0}
            onChange={() => onPick(feel.id)}
          />
          <span className="min-w-0 truncate font-semibold" title={feel.label}>
            {feel.label}
          </span>
          {state.here.includes(feel.id) && (
            <span className="shrink-0 rounded bg-shoal px-1 text-[11.5px]">on the Bench</span>
          )}
          {at >= 0 && <Stroke of={at} className="ml-auto" />}
        </label>
        <p className="pl-6 text-[12.5px] text-ink-2">
          {feel.figures}
          {feel.typical && <i>, curve typical</i>}
        </p>
      </li>
    );
  };
  return (
    <div className="min-h-0 flex-1 overflow-y-auto pb-3">
      <div className="px-4 py-2">
        <TextInput
          aria-label="Search loads and cabinets"
          placeholder="Search …"
          value={words}
          onChange={(e) => setWords(e.target.value)}
        />
      </div>
      {GROUPS.map(([kind, title]) => {
        const some = all.filter((f) => f.kind === kind);
        return some.length === 0 ? null : (
          <section key={kind} aria-label={title}>
            <h2 className="px-4 pt-1.5 pb-1 text-[12px] font-semibold text-ink-2">{title}</h2>
            <ul>{some.map(item)}</ul>
          </section>
        );
      })}
      {all.length === 0 && <p className="px-4 text-[13px] text-ink-2">None has these words in its name.</p>}
    </div>
  );
}
