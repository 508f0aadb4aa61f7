import { useDeferredValue, useState } from "react";
import { Link } from "react-router";
import { Button, TextInput } from "../../parts/controls";
import { Sheet } from "../../parts/Sheet";
import { Failed, Loading } from "../../parts/states";
import { onTop, useLibrary } from "./useLibrary";

const WITHIN_DB = 1.5;

/** Impulse responses to put into a blend: the short list first, alike ones folded. */
export function FromLibrary({
  there,
  most,
  onAdd,
  onClose,
}: {
  there: number[];
  most: number;
  onAdd: (ids: number[]) => void;
  onClose: () => void;
}) {
  const [words, setWords] = useState("");
  const [folded, setFolded] = useState(true);
  const [chosen, setChosen] = useState<number[]>([]);
  const library = useLibrary(useDeferredValue(words), folded ? WITHIN_DB : null);
  const found = onTop(library.data?.impulses ?? []);
  const list = [...found.filter((e) => e.note.listed), ...found.filter((e) => !e.note.listed)];
  const pick = (id: number) =>
    setChosen(chosen.includes(id) ? chosen.filter((each) => each !== id) : [...chosen, id]);
  return (
    <Sheet open wide onClose={onClose} title="From the library" about="Up to six make a blend.">
      <TextInput
        aria-label="Search impulse responses"
        placeholder="Search: ribbon 4×12, near, drone …"
        value={words}
        onChange={(event) => setWords(event.target.value)}
      />
      <label className="mt-1.5 flex items-center gap-2 text-[13px]">
        <input
          type="checkbox"
          className="size-[15px] accent-[var(--deep)]"
          checked={folded}
          onChange={(event) => setFolded(event.target.checked)}
        />
        Fold those that are alike to within {WITHIN_DB} dB
      </label>
      {library.error && <Failed error={library.error} retry={() => void library.refetch()} />}
      {library.isLoading && <Loading what="the library" />}
      <ul aria-label="Impulse responses" className="mt-2 max-h-[44vh] overflow-y-auto">
        {list.slice(0, 300).map((each) => {
          const on = there.includes(each.id);
          const picked = chosen.includes(each.id);
          return (
            <li key={each.id} className="border-t border-line first:border-t-0">
              <label className="flex items-center gap-2.5 py-1.5">
                <input
                  type="checkbox"
                  aria-label={each.note.name}
                  className="size-[15px] accent-[var(--deep)]"
                  checked={picked}
                  disabled={!picked && chosen.length >= most}
                  onChange={() => pick(each.id)}
                />
                <span className="min-w-0 flex-1">
                  <span className="block truncate font-semibold">{each.note.name}</span>
                  <span className="block truncate text-[12.5px] text-ink-2">
                    {[
                      each.note.listed ? "short list" : "",
                      each.note.cabinet,
                      each.note.microphone,
                      each.note.distance === null ? "" : `${each.note.distance} cm`,
                      each.note.axis,
                      each.folds ? `${each.folds} more alike` : "",
                      on ? "in the blend" : "",
                      each.origin === "made" ? "made by the program" : "",
                    ]
                      .filter(Boolean)
                      .join(" · ")}
                  </span>
                </span>
              </label>
            </li>
          );
        })}
      </ul>
      {list.length > 300 && (
        <p className="py-1 text-[12.5px] text-ink-2">The first 300 of {list.length}: search for fewer.</p>
      )}
      {library.data && list.length === 0 && (
        <p className="py-4 text-ink-2">
          {library.data.of ? "No impulse response has these words." : "The library is empty."}{" "}
          <Link className="underline" to="/cab/library">
            Bring files in
          </Link>
          .
        </p>
      )}
      <div className="mt-3 flex flex-wrap justify-end gap-2">
        <Button onClick={onClose}>Leave it</Button>
        <Button look="main" disabled={chosen.length === 0} onClick={() => onAdd(chosen)}>
          Put {chosen.length || ""} in
        </Button>
      </div>
    </Sheet>
  );
}
