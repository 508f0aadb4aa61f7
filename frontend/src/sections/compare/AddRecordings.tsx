import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { answer, api } from "../../api/client";
import { Button, TextInput } from "../../parts/controls";
import { Sheet } from "../../parts/Sheet";
import { Failed, Loading } from "../../parts/states";

/** Takes with a recording, to be put on the list; the first one of a new comparison is its reference. */
export function AddRecordings({
  there,
  most,
  begins,
  about = "They are held against the reference.",
  onAdd,
  onFiles,
  onClose,
}: {
  /** Takes that are on the list already. */
  there: number[];
  most: number;
  /** It is a new comparison. */
  begins: boolean;
  /** What becomes of them. */
  about?: string;
  onAdd: (takes: number[]) => void;
  onFiles: () => void;
  onClose: () => void;
}) {
  const [words, setWords] = useState("");
  const [page, setPage] = useState(1);
  const [chosen, setChosen] = useState<number[]>([]);
  const search = useDeferredValue(words);
  const takes = useQuery({
    queryKey: ["takes", undefined, search, true, page],
    queryFn: () => answer(api.GET("/api/takes", { params: { query: { search, audio: true, page } } })),
    placeholderData: keepPreviousData,
  });
  const list = takes.data?.takes ?? [];
  const full = chosen.length >= most;
  const pick = (id: number) =>
    setChosen(chosen.includes(id) ? chosen.filter((each) => each !== id) : [...chosen, id]);
  return (
    <Sheet
      open
      wide
      onClose={onClose}
      title={begins ? "Compare recordings" : "Add recordings"}
      about={
        begins
          ? "In the order you choose them: the first is the reference, the others are held against it."
          : about
      }
    >
      <TextInput
        aria-label="Search takes"
        placeholder="Search takes …"
        value={words}
        onChange={(event) => {
          setWords(event.target.value);
          setPage(1);
        }}
      />
      {takes.error && <Failed error={takes.error} retry={() => void takes.refetch()} />}
      {takes.isLoading && <Loading what="the takes" />}
      <ul aria-label="Takes with a recording" className="mt-2 max-h-[44vh] overflow-y-auto">
        {list.map((take) => {
          const at = chosen.indexOf(take.id);
          const on = there.includes(take.id);
          return (
            <li key={take.id} className="border-t border-line first:border-t-0">
              <label className="flex items-center gap-2.5 py-1.5">
                <input
                  type="checkbox"
                  className="size-[15px] accent-[var(--deep)]"
                  checked={on || at >= 0}
                  disabled={on || (at < 0 && full)}
                  onChange={() => pick(take.id)}
                />
                <span className="w-5 text-center text-[12.5px] font-bold text-deep">
                  {at >= 0 ? (begins && at === 0 ? "ref" : at + 1) : ""}
                </span>
                <span className="min-w-0 flex-1">
                  <span className="block truncate font-semibold">
                    {take.number}. {take.note.name}
                  </span>
                  <span className="block truncate text-[12.5px] text-ink-2">
                    {take.hookup}
                    {take.simulated && ", simulated"}
                    {take.measures && `, ${take.measures.seconds.toFixed(1)} s`}
                    {on && ", on the list"}
                  </span>
                </span>
              </label>
            </li>
          );
        })}
      </ul>
      {takes.data && list.length === 0 && (
        <p className="py-4 text-ink-2">
          {words
            ? "No take with a recording has these words."
            : "No take has a recording yet; bring files in."}
        </p>
      )}
      {(takes.data?.pages ?? 1) > 1 && (
        <nav aria-label="Pages" className="flex items-center justify-center gap-3 pt-1 text-[13px]">
          <Button look="quiet" disabled={page <= 1} onClick={() => setPage(page - 1)}>
            Newer
          </Button>
          page {takes.data?.page} of {takes.data?.pages}
          <Button look="quiet" disabled={page >= (takes.data?.pages ?? 1)} onClick={() => setPage(page + 1)}>
            Older
          </Button>
        </nav>
      )}
      <div className="mt-3 flex flex-wrap justify-end gap-2">
        <Button className="mr-auto" onClick={onFiles}>
          Files from elsewhere …
        </Button>
        <Button onClick={onClose}>Leave it</Button>
        <Button
          look="main"
          disabled={chosen.length < (begins ? 2 : 1)}
          onClick={() => onAdd(chosen)}
          title={begins && chosen.length < 2 ? "Choose at least two." : undefined}
        >
          {begins ? `Compare ${chosen.length || ""}` : `Add ${chosen.length || ""}`}
        </Button>
      </div>
    </Sheet>
  );
}
