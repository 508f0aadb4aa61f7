import { useState } from "react";
import { Button, Field, TextInput } from "./controls";
import { Sheet } from "./Sheet";

/** Asks for a name: Enter gives it. */
export function NameIt({
  title,
  name,
  yes,
  onName,
  onClose,
}: {
  title: string;
  name: string;
  yes: string;
  onName: (name: string) => void;
  onClose: () => void;
}) {
  const [typed, setTyped] = useState(name);
  const wanted = typed.trim();
  return (
    <Sheet open onClose={onClose} title={title}>
      <form
        className="grid gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (!wanted) return;
          onName(wanted);
          onClose();
        }}
      >
        <Field label="Name" problem={wanted ? undefined : "It needs a name."}>
          <TextInput
            autoFocus
            maxLength={120}
            value={typed}
            onFocus={(event) => event.target.select()}
            onChange={(event) => setTyped(event.target.value)}
          />
        </Field>
        <div className="flex justify-end">
          <Button look="main" type="submit" disabled={!wanted}>
            {yes}
          </Button>
        </div>
      </form>
    </Sheet>
  );
}
