import { useState } from "react";
import type { Change, LinkView } from "../../api/client";
import { Button, Field, TextInput } from "../../parts/controls";
import { asNumberIfAny } from "../../parts/typed";

/** How far apart the sockets of a lead stand, and whether an angled plug is wanted: for choosing a lead that reaches. */
export function Way({ link, onChange }: { link: LinkView; onChange: (changes: Change[]) => void }) {
  const [reach, setReach] = useState(link.reach === null ? "" : String(link.reach));
  const [tight, setTight] = useState(link.tight);
  return (
    <form
      aria-label={`Way of ${link.name}`}
      className="mx-4 mb-2 grid grid-cols-[1fr_auto] items-end gap-x-3 gap-y-1.5 rounded-md border border-line px-3 py-2"
      onSubmit={(event) => {
        event.preventDefault();
        onChange([{ op: "measure", lead: link.lead, reach: asNumberIfAny(reach), tight }]);
      }}
    >
      <Field label="Way between its sockets" unit="m">
        <TextInput
          inputMode="decimal"
          placeholder="not measured"
          value={reach}
          onChange={(event) => setReach(event.target.value)}
        />
      </Field>
      <Button type="submit">Note it</Button>
      <label className="col-span-2 flex items-center gap-2 text-[12.5px]">
        <input
          type="checkbox"
          className="accent-[var(--deep)]"
          checked={tight}
          onChange={(event) => setTight(event.target.checked)}
        />
        little room: an angled plug is wanted
      </label>
    </form>
  );
}
