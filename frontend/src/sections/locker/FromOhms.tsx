import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type Schemas } from "../../api/client";
import { Button, Field, TextInput } from "../../parts/controls";
import { Sheet } from "../../parts/Sheet";
import { Failed } from "../../parts/states";
import { fixed, ohms } from "../../parts/table";
import { asNumber } from "../../parts/typed";
import type { Doc } from "./schema";

export type Likely = Schemas["Likely"];

const WIRED: Record<Likely["wiring"], string> = {
  parallel: "in parallel",
  series: "in series",
  series_parallel: "as pairs in series, the pairs in parallel",
};

const told = (each: Likely, drivers: number) =>
  drivers === 1 ? `rated ${ohms(each.rated)}` : `${drivers} × ${ohms(each.driver)} ${WIRED[each.wiring]}`;

/** The likely rating and wiring of a cabinet nobody knows, from a multimeter at its plug. */
export function FromOhms({ doc, onUse }: { doc: Doc; onUse: (found: Likely) => void }) {
  const [open, setOpen] = useState(false);
  const [text, setText] = useState("");
  const find = useMutation({
    mutationFn: () =>
      answer(api.POST("/api/tools/ohms-at-the-plug", { body: { box: doc, ohms: asNumber(text) } })),
  });
  const drivers = find.data?.drivers ?? 1;
  return (
    <>
      <Button look="quiet" className="mt-1" onClick={() => setOpen(true)}>
        From ohms at the plug …
      </Button>
      <Sheet
        open={open}
        onClose={() => setOpen(false)}
        title="Rating from ohms at the plug"
        about="Pull the plug out of the amp, with the amp switched off, and hold a multimeter on ohms between its tip and sleeve. A rated 8 Ω usually reads about 6.6 Ω: the meter sees the wire of the voice coil alone."
      >
        <form
          className="flex items-end gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            event.stopPropagation();
            find.mutate();
          }}
        >
          <Field label="Ohms at the plug" unit="Ω">
            <TextInput
              inputMode="decimal"
              value={text}
              onChange={(event) => {
                find.reset();
                setText(event.target.value);
              }}
            />
          </Field>
          <Button type="submit">What is it likely?</Button>
        </form>
        {find.error && <Failed error={find.error} />}
        {find.data && (
          <ul role="status" className="mt-3 grid gap-2">
            <li className="text-[12.5px] text-ink-2">
              {drivers === 1 ? "One driver" : `${drivers} like drivers`} behind that plug, as the form has it
              now.
            </li>
            {find.data.found.map((each, i) => (
              <li
                key={`${each.driver} ${each.wiring}`}
                className="flex items-center gap-3 rounded-lg border border-line px-3 py-2"
              >
                <span className="flex-1">
                  <b>{told(each, drivers)}</b>
                  {drivers > 1 && `, ${ohms(each.rated)} together`}
                  <span className="block text-[12.5px] text-ink-2">
                    would usually read {fixed(each.usual, 1)} Ω{i === 0 && "; the likeliest"}
                  </span>
                </span>
                <Button
                  look={i === 0 ? "main" : "plain"}
                  onClick={() => {
                    onUse(each);
                    setOpen(false);
                  }}
                >
                  Use it
                </Button>
              </li>
            ))}
          </ul>
        )}
        <p className="mt-3 text-[12.5px] text-ink-2">
          Inferred is not known: it stays marked until you have read the label on the driver or the cabinet.
        </p>
      </Sheet>
    </>
  );
}
