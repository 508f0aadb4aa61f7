import { answer, api, type Schemas } from "../../api/client";
import { useEdits } from "../../parts/useEdits";

export type Blend = Schemas["BlendState"];
export type Doc = Schemas["BlendDoc"];
export type BlendPart = Doc["parts"][number];

export const MOST_PARTS = 6;
export const LETTERS = "ABCDEF";
export const keyOf = (id: number) => ["blend", id];

interface Wish {
  name: string;
  doc: Doc;
}

/** A blend and its edits. */
export function useBlend(id: number) {
  const path = { blend_id: id };
  const edits = useEdits<Blend, Wish>({
    queryKey: keyOf(id),
    lists: [["blends"]],
    fetch: () => answer(api.GET("/api/blends/{blend_id}", { params: { path } })),
    save: (wish, saves) =>
      answer(api.PUT("/api/blends/{blend_id}", { params: { path }, body: { ...wish, saves } })),
    wishOf: ({ name, doc }) => ({ name, doc }),
  });
  const { now } = edits;
  const change = (next: Partial<Doc>, name?: string) =>
    edits.change((was) => ({ name: name ?? was.name, doc: { ...was.doc, ...next } }));
  return {
    ...edits,
    doc: now?.doc,
    name: now?.name ?? "",
    change,
    changePart: (place: number, next: Partial<BlendPart>) =>
      now &&
      change({
        parts: now.doc.parts.map((part, i) => (i === place ? { ...part, ...next } : part)),
        // Moved by hand, it stands as none of the ways would have it.
        ...("delay" in next ? { line_up: "" as const } : {}),
      }),
  };
}

export type BlendEdits = ReturnType<typeof useBlend>;

export const partOf = (impulse: number): BlendPart => ({
  impulse,
  gain: 0,
  inverted: false,
  delay: 0,
  pan: 0,
  mute: false,
  solo: false,
});
