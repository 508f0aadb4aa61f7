import { useState } from "react";
import { Button, TextInput } from "../../parts/controls";
import { Failed } from "../../parts/states";
import { Stroke } from "../../parts/Stroke";
import { ohms, signed } from "../../parts/table";
import type { Feel, FeelState } from "./useFeel";

type Column = "label" | "bass" | "presence" | "level";

const COLUMNS: readonly { id: Column; head: string; about: string }[] = [
  { id: "label", head: "Load", about: "by name" },
  { id: "bass", head: "Bass", about: "largest difference in the bass, dB" },
  { id: "presence", head: "2–5 kHz", about: "mean from 2 to 5 kHz, dB" },
  { id: "level", head: "Level", about: "over the programme, dB" },
];

interface Sorted {
  by: Column;
  down: boolean;
}

function sortedBy(feels: Feel[], { by, down }: Sorted): Feel[] {
  const up = feels.toSorted((a, b) => (by === "label" ? a.label.localeCompare(b.label) : a[by] - b[by]));
  return down ? up.toReversed() : up;
}

/** Every load in every mode and every cabinet: which are drawn, what each does, and which one is picked. */
export function Loads({
  state,
  picked,
  onPick,
  onChoose,
  choosing,
}: {
  state: FeelState;
  /** Ids of those that are drawn. */
  picked: string[];
  onPick: (id: string) => void;
  /** One is picked for the amp, mode and guitar; an empty id takes the pick back. */
  onChoose: (id: string) => void;
  choosing: { busy: boolean; error: Error | null };
}) {
  const [words, setWords] = useState("");
  const [sorted, setSorted] = useState<Sorted>();
  const found = state.feels.feels.filter((f) =>
    words
      .toLowerCase()
      .split(/\s+/)
      .every((w) => f.label.toLowerCase().includes(w)),
  );
  const rows = sorted ? sortedBy(found, sorted) : found;
  const sort = (by: Column) =>
    setSorted(sorted?.by === by ? { by, down: !sorted.down } : { by, down: by !== "label" });
  const mine = state.picked;
  return (
    <div className="min-h-0 flex-1 overflow-y-auto pb-3">
      <div className="px-4 py-2">
        <TextInput
          aria-label="Search loads and cabinets"
          placeholder="Search …"
          value={words}
          onChange={(e) => setWords(e.target.value)}
        />
        {state.playing && (
          <p className="mt-1.5 text-[12.5px]">
            <span className="text-ink-2">Picked for {state.playing}: </span>
            {mine ? (
              <>
                <b className="font-semibold">{mine.label}</b>{" "}
                <button
                  type="button"
                  className="min-h-[24px] text-deep underline"
                  disabled={choosing.busy}
                  onClick={() => onChoose("")}
                >
                  take it back
                </button>
              </>
            ) : (
              "nothing yet"
            )}
          </p>
        )}
        {choosing.error && <Failed error={choosing.error} />}
      </div>
      <table aria-label="Loads and cabinets" className="w-full border-collapse text-[12.5px]">
        <thead>
          <tr>
            <th scope="col" className="w-8">
              <span className="sr-only">Drawn</span>
            </th>
            {COLUMNS.map(({ id, head, about }) => (
              <th
                key={id}
                scope="col"
                aria-sort={sorted?.by === id ? (sorted.down ? "descending" : "ascending") : "none"}
                className={`font-semibold text-ink-2 ${id === "label" ? "text-left" : "pr-2 text-right"}`}
              >
                <button
                  type="button"
                  title={about}
                  className="min-h-[24px] whitespace-nowrap hover:text-ink"
                  onClick={() => sort(id)}
                >
                  {head}
                  {sorted?.by === id && (sorted.down ? "↓" : "↑")}
                </button>
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((feel) => {
            const at = picked.indexOf(feel.id);
            const own = mine?.choice === feel.id;
            return (
              <tr key={feel.id} className="border-t border-line align-top">
                <td className="py-1.5 pr-2 pl-4">
                  <input
                    type="checkbox"
                    aria-label={`Draw ${feel.label}`}
                    className="size-[15px] accent-[var(--deep)]"
                    checked={at >= 0}
                    onChange={() => onPick(feel.id)}
                  />
                </td>
                <th scope="row" title={feel.words} className="py-1 pr-1 text-left font-normal">
                  <span className="flex items-center gap-1.5">
                    <span className="min-w-0 font-semibold">{feel.label}</span>
                    {at >= 0 && <Stroke of={at} />}
                  </span>
                  <span className="flex flex-wrap items-center gap-x-2 text-[12px] text-ink-2">
                    {feel.kind !== "resistor" && ohms(feel.nominal)}
                    {state.here.includes(feel.id) && <span>on the Bench</span>}
                    {feel.typical && <i>curve typical</i>}
                    {own ? (
                      <b className="font-semibold text-ink">picked</b>
                    ) : (
                      state.playing &&
                      feel.kind !== "resistor" &&
                      at >= 0 && (
                        <Button
                          look="quiet"
                          className="!px-1 !py-0"
                          aria-label={`pick it: ${feel.label}`}
                          disabled={choosing.busy}
                          onClick={() => onChoose(feel.id)}
                        >
                          pick it
                        </Button>
                      )
                    )}
                  </span>
                </th>
                {([feel.bass, feel.presence, feel.level] as const).map((db, i) => (
                  <td key={i} className="py-1.5 pr-2 text-right whitespace-nowrap">
                    {signed(db)}
                  </td>
                ))}
              </tr>
            );
          })}
        </tbody>
      </table>
      <p className="px-4 pt-1.5 text-[12px] text-ink-2">dB at the amp’s jack, against the reference.</p>
      {rows.length === 0 && <p className="px-4 text-[13px] text-ink-2">None has these words in its name.</p>}
    </div>
  );
}
