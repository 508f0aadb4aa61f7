import { useMutation } from "@tanstack/react-query";
import { useRef } from "react";
import { sendFile, type Schemas } from "../../api/client";
import { Button } from "../../parts/controls";
import { Failed } from "../../parts/states";
import { short } from "../../parts/table";
import type { Doc, Json } from "./schema";

const hertz = (f: number) => (f >= 1000 ? `${short(f / 1000)} kHz` : `${short(f)} Hz`);

/** A measured impedance curve: read from a file, told in a line, taken away again. */
export function MeasuredCurve({ value, onValue }: { value: Doc | null; onValue: (value: Json) => void }) {
  const file = useRef<HTMLInputElement>(null);
  const read = useMutation({
    mutationFn: (from: File) => sendFile<Schemas["ReadCurve"]>("/api/curves/read", from),
    onSuccess: ({ curve }) => onValue(curve as unknown as Json),
  });
  const frequency = (value?.frequency ?? []) as number[];
  return (
    <div className="col-span-full text-[13px]">
      <p className="font-medium">Measured curve</p>
      {value ? (
        <p>
          {frequency.length} points, {hertz(frequency[0] ?? 0)} to {hertz(frequency.at(-1) ?? 0)}
          {value.reconstructed ? "; phase reconstructed from the magnitude, not measured" : ""}.
        </p>
      ) : (
        <p className="text-ink-2">None. A ZMA or CSV file from a measuring program can be read in.</p>
      )}
      {read.data?.warnings.map((said) => (
        <p key={said} role="status" className="text-caution">
          {said}
        </p>
      ))}
      {read.error && <Failed error={read.error} />}
      <div className="mt-1 flex gap-2">
        <Button onClick={() => file.current?.click()}>
          {value ? "Read another file …" : "Read a file …"}
        </Button>
        {value && (
          <Button look="quiet" onClick={() => onValue(null)}>
            Take the curve away
          </Button>
        )}
        <input
          ref={file}
          type="file"
          accept=".zma,.csv,.txt"
          aria-label="Curve file"
          className="hidden"
          onChange={(event) => {
            const chosen = event.target.files?.[0];
            if (chosen) read.mutate(chosen);
            event.target.value = "";
          }}
        />
      </div>
    </div>
  );
}
