import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../../api/client";
import { FIELD } from "../../parts/controls";
import { useLibrary } from "./useLibrary";
import type { Blend, Doc } from "./useBlend";

/** What the blend is like, in words, against a reference of one's choice. */
export function Against({
  state,
  doc,
  onReference,
}: {
  state: Blend;
  doc: Doc;
  onReference: (next: Doc["reference"]) => void;
}) {
  const blends = useQuery({ queryKey: ["blends"], queryFn: () => answer(api.GET("/api/blends")) });
  const library = useLibrary("", null);
  const listed = (library.data?.impulses ?? []).filter(
    (e) =>
      e.note.listed || e.note.favourite || (doc.reference.against === "impulse" && e.id === doc.reference.id),
  );
  return (
    <section aria-label="What it is like" className="border-b border-line px-4 py-2 text-[13px]">
      <label className="mb-1 flex items-center gap-2 text-[12.5px] text-ink-2">
        Held against
        <select
          className={`${FIELD} !w-auto min-w-0 flex-1 !py-0.5`}
          value={`${doc.reference.against} ${doc.reference.id ?? ""}`}
          onChange={(event) => {
            const [against, id] = event.target.value.split(" ");
            onReference({ against: against as Doc["reference"]["against"], id: id ? Number(id) : null });
          }}
        >
          <option value="library ">the rest of your library</option>
          {(blends.data?.blends ?? [])
            .filter((each) => each.id !== state.id)
            .map((each) => (
              <option key={`blend ${each.id}`} value={`blend ${each.id}`}>
                blend “{each.name}”
              </option>
            ))}
          {listed.map((each) => (
            <option key={`impulse ${each.id}`} value={`impulse ${each.id}`}>
              {each.note.name}
            </option>
          ))}
        </select>
      </label>
      {state.report.map((said, i) => (
        <p key={said} className={i === 0 ? "font-bold" : "mt-1 text-ink-2"}>
          {said}
        </p>
      ))}
    </section>
  );
}
