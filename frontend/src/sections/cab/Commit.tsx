import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../../api/client";
import { Button, Field, TextInput } from "../../parts/controls";
import { Sheet } from "../../parts/Sheet";
import { Failed } from "../../parts/states";
import type { Blend } from "./useBlend";

/** The blend that is taken for a part, and why: a line in the log. */
export function Commit({
  state,
  tried,
  onDone,
  onClose,
}: {
  state: Blend;
  tried: number;
  onDone: () => void;
  onClose: () => void;
}) {
  const client = useQueryClient();
  const [part, setPart] = useState("");
  const [why, setWhy] = useState("");
  const [trusted, setTrusted] = useState(false);
  const write = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/blends/{blend_id}/commit", {
          params: { path: { blend_id: state.id } },
          body: { part, why, trusted, tried, session: null },
        }),
      ),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ["lines"] });
      void client.invalidateQueries({ queryKey: ["impulses"] });
      onDone();
      onClose();
    },
  });
  return (
    <Sheet
      open
      onClose={onClose}
      title={`Take “${state.name}”`}
      about="It becomes a line in the log, with what it is made of."
    >
      <form
        className="grid gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (why.trim()) write.mutate();
        }}
      >
        <Field label="For the part">
          <TextInput
            value={part}
            maxLength={120}
            placeholder="main"
            onChange={(e) => setPart(e.target.value)}
          />
        </Field>
        <Field label="Why">
          <TextInput
            value={why}
            maxLength={400}
            placeholder="full, and it leaves room for the bells"
            onChange={(e) => setWhy(e.target.value)}
          />
        </Field>
        {state.doc.school === "impulses" && (
          <label className="flex items-center gap-2 text-[13px]">
            <input
              type="checkbox"
              className="size-[15px] accent-[var(--deep)]"
              checked={trusted}
              onChange={(e) => setTrusted(e.target.checked)}
            />
            Trust its impulse responses: put them on the short list
          </label>
        )}
        {write.error && <Failed error={write.error} />}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Leave it</Button>
          <Button look="main" type="submit" disabled={!why.trim() || write.isPending}>
            Into the log
          </Button>
        </div>
      </form>
    </Sheet>
  );
}
