import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api } from "../../api/client";
import { Button, Field, TextInput } from "../../parts/controls";
import { Sheet } from "../../parts/Sheet";
import { Failed } from "../../parts/states";
import { short } from "../../parts/table";
import { asNumber } from "../../parts/typed";

const FIELDS = [
  { id: "r1", label: "First load", unit: "Ω" },
  { id: "v1", label: "Volts on it", unit: "V" },
  { id: "r2", label: "Second load, more ohms", unit: "Ω" },
  { id: "v2", label: "Volts on it", unit: "V" },
] as const;

/** Output impedance, and with it the damping factor, from volts on two resistive loads. */
export function TwoReadings({ tap, onUse }: { tap: number; onUse: (dampingFactor: number) => void }) {
  const [open, setOpen] = useState(false);
  const [text, setText] = useState<Record<string, string>>({});
  const find = useMutation({
    mutationFn: () =>
      answer(
        api.POST("/api/tools/output-impedance", {
          body: {
            r1: asNumber(text.r1 ?? ""),
            v1: asNumber(text.v1 ?? ""),
            r2: asNumber(text.r2 ?? ""),
            v2: asNumber(text.v2 ?? ""),
            tap,
          },
        }),
      ),
  });
  const found = find.data;
  const factor = found?.damping_factor;
  return (
    <>
      <button type="button" className="underline" onClick={() => setOpen(true)}>
        from two readings …
      </button>
      <Sheet
        open={open}
        onClose={() => setOpen(false)}
        title="Damping factor from two readings"
        about={`On the ${short(tap)} Ω tap: the same steady tone of about 400 Hz at the same, clean drive into two resistive loads that stand the power. Both loads within what the maker permits; change them with the amp switched off.`}
      >
        <form
          className="grid grid-cols-2 gap-3"
          onSubmit={(event) => {
            event.preventDefault();
            event.stopPropagation();
            find.mutate();
          }}
        >
          {FIELDS.map(({ id, label, unit }) => (
            <Field key={id} label={label} unit={unit}>
              <TextInput
                inputMode="decimal"
                value={text[id] ?? ""}
                onChange={(event) => {
                  find.reset();
                  setText({ ...text, [id]: event.target.value });
                }}
              />
            </Field>
          ))}
          <div className="col-span-2 flex items-center gap-3">
            <Button type="submit">Work it out</Button>
            {factor != null && (
              <Button
                look="main"
                onClick={() => {
                  onUse(Number(factor.toPrecision(3)));
                  setOpen(false);
                }}
              >
                Use {short(factor)}
              </Button>
            )}
          </div>
        </form>
        {find.error && <Failed error={find.error} />}
        {found && (
          <p role="status" className="mt-3">
            Output impedance {short(found.output_impedance)} Ω,{" "}
            {factor == null ? (
              "too little to tell a damping factor by"
            ) : (
              <>
                so a damping factor of <b>{short(factor)}</b>
              </>
            )}
            . If both voltmeter readings are off by 1 %, the impedance lies between {short(found.low)} and{" "}
            {found.high === null ? "no bound" : `${short(found.high)} Ω`}.
          </p>
        )}
      </Sheet>
    </>
  );
}
