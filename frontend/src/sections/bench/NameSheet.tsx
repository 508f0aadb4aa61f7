import { useState } from "react";
import type { BenchState, Change } from "../../api/client";
import { Button, Field, FIELD, TextInput } from "../../parts/controls";
import { Sheet } from "../../parts/Sheet";

/** Name and notes of a hook-up, changed in place or given to a copy of it. */
export function NameSheet({
  state,
  onSave,
  onCopy,
  onClose,
}: {
  state: BenchState;
  onSave: (changes: Change[]) => void;
  onCopy: (changes: Change[]) => void;
  onClose: () => void;
}) {
  const [name, setName] = useState(state.name);
  const [notes, setNotes] = useState(state.notes);
  const changes: Change[] = [{ op: "describe", name: name.trim(), notes }];
  return (
    <Sheet open onClose={onClose} title="Name and notes">
      <form
        className="grid gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          onSave(changes);
        }}
      >
        <Field label="Name" problem={name.trim() ? undefined : "A hook-up needs a name."}>
          <TextInput maxLength={120} value={name} onChange={(event) => setName(event.target.value)} />
        </Field>
        <Field label="Notes">
          <textarea
            rows={4}
            maxLength={8000}
            className={FIELD}
            value={notes}
            onChange={(event) => setNotes(event.target.value)}
          />
        </Field>
        <div className="flex justify-end gap-2">
          <Button disabled={!name.trim()} onClick={() => onCopy(changes)}>
            Save as a copy
          </Button>
          <Button look="main" type="submit" disabled={!name.trim()}>
            Save
          </Button>
        </div>
      </form>
    </Sheet>
  );
}
