import { useQuery } from "@tanstack/react-query";
import { answer, api, type Schemas } from "../../../api/client";
import { useEdits } from "../../../parts/useEdits";

export type Mix = Schemas["MixState"];
export type MixDoc = Schemas["MixDoc"];
export type MixTrack = MixDoc["tracks"][number];

/** The built-in backing, in its parts. */
export const BUILT_IN = ["backing-bass", "backing-drums", "backing-harmonium", "backing-bell-buoy"];

export const trackOf = (source: string): MixTrack => ({ source, name: "", gain: 0, at: null, mute: false });

export const useMixes = () => useQuery({ queryKey: ["mixes"], queryFn: () => answer(api.GET("/api/mixes")) });

interface Wish {
  name: string;
  doc: MixDoc;
}

/** A mix and its edits. */
export function useMix(id: number) {
  const path = { mix_id: id };
  const edits = useEdits<Mix, Wish>({
    queryKey: ["mix", id],
    lists: [["mixes"]],
    fetch: () => answer(api.GET("/api/mixes/{mix_id}", { params: { path } })),
    save: (wish, saves) =>
      answer(api.PUT("/api/mixes/{mix_id}", { params: { path }, body: { ...wish, saves } })),
    wishOf: ({ name, doc }) => ({ name, doc }),
  });
  const change = (next: Partial<MixDoc>, name?: string) =>
    edits.change((was) => ({ name: name ?? was.name, doc: { ...was.doc, ...next } }));
  return {
    ...edits,
    doc: edits.now?.doc,
    name: edits.now?.name ?? "",
    change,
    changeTrack: (place: number, next: Partial<MixTrack>) =>
      edits.now &&
      change({ tracks: edits.now.doc.tracks.map((each, i) => (i === place ? { ...each, ...next } : each)) }),
  };
}

export type MixEdits = ReturnType<typeof useMix>;

/** In which bands the guitar is heard: asked again whenever the mix or the blend was saved. */
export const useHeard = (mix: Mix, blend: { id: number; saves: number }) =>
  useQuery({
    queryKey: ["heard-in-mix", mix.id, mix.saves, blend.id, blend.saves],
    queryFn: () =>
      answer(
        api.GET("/api/mixes/{mix_id}/blends/{blend_id}", {
          params: { path: { mix_id: mix.id, blend_id: blend.id } },
        }),
      ),
    // While it is worked out anew; of another mix or blend it would be told under the wrong name.
    placeholderData: (before, asked) =>
      asked?.queryKey[1] === mix.id && asked.queryKey[3] === blend.id ? before : undefined,
    retry: false,
  });
