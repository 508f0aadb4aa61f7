import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../../api/client";
import { Button, Field, FIELD, TextInput } from "../../parts/controls";
import { Sheet } from "../../parts/Sheet";
import { Failed } from "../../parts/states";
import type { Comparison } from "./useComparison";

/** The recording that is picked, and why: a line in the log. */
export function Take({ state, at, onClose }: { state: Comparison; at: number; onClose: () => void }) {
  const client = useQueryClient();
  const [audio, setAudio] = useState(state.tracks[at]?.audio ?? "");
  const [why, setWhy] = useState("");
  const write = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/comparisons/{comparison_id}/pick", {
          params: { path: { comparison_id: state.id } },
          body: { audio, why, session: null },
        }),
      ),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ["lines"] });
      onClose();
    },
  });
  return (
    <Sheet
      open
      onClose={onClose}
      title="Take one"
      about="It becomes a line in the log, with the others it was picked over."
    >
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (why.trim()) write.mutate();
        }}
      >
        <Field label="Recording">
          <select className={FIELD} value={audio} onChange={(e) => setAudio(e.target.value)}>
            {state.tracks
              .filter((t) => t.audio)
              .map((t) => (
                <option key={t.audio} value={t.audio}>
                  {t.called}
                </option>
              ))}
          </select>
        </Field>
        <div className="mt-2">
          <Field label="Why">
            <TextInput
              value={why}
              maxLength={400}
              placeholder="tighter in the bass under the bells"
              onChange={(e) => setWhy(e.target.value)}
            />
          </Field>
        </div>
        {write.error && <Failed error={write.error} />}
        <div className="mt-3 flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button look="main" type="submit" disabled={!why.trim() || write.isPending}>
            Into the log
          </Button>
        </div>
      </form>
    </Sheet>
  );
}
