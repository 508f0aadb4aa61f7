import { useState } from "react";
import { Button } from "../../parts/controls";
import { Sheet } from "../../parts/Sheet";
import { Calibrate } from "./Calibrate";
import { FromOhms, type Likely } from "./FromOhms";
import type { Doc } from "./schema";

const INFERRED = ["Rated impedance", "Drivers are wired"];

/** What a reading says of a step, by its fields' labels. */
const READ = ["Down by", "Give or take"];

const typicalWithout = (doc: Doc, labels: string[]) =>
  ((doc.typical as string[] | undefined) ?? []).filter((label) => !labels.includes(label));

/** The record with what ohms at the plug make likely; a single driver has no wiring to infer. */
function inferred(doc: Doc, found: Likely): Doc {
  const drivers = (doc.drivers as Doc[]).map((driver) => ({ ...driver, impedance: found.driver }));
  const labels = drivers.length > 1 ? INFERRED : INFERRED.slice(0, 1);
  return { ...doc, drivers, wiring: found.wiring, inferred: labels, typical: typicalWithout(doc, labels) };
}

/** What finds a field out that nobody knows, where there is such a thing. */
export function FieldTool({ name, doc, onChange }: { name: string; doc: Doc; onChange: (doc: Doc) => void }) {
  const [open, setOpen] = useState(false);
  if (name === "drivers" && doc.kind === "cabinet")
    return <FromOhms doc={doc} onUse={(found) => onChange(inferred(doc, found))} />;
  if (name !== "marks") return null;
  return (
    <>
      <Button look="quiet" className="mt-1" onClick={() => setOpen(true)}>
        From volts or levels …
      </Button>
      <Sheet open={open} onClose={() => setOpen(false)} title="What the positions take, from readings">
        <Calibrate
          doc={doc}
          name={String(doc.name || "the new one")}
          keep="Use this table"
          onKeep={(table) => {
            onChange({ ...doc, ...table, typical: typicalWithout(doc, READ) } as Doc);
            setOpen(false);
          }}
        />
      </Sheet>
    </>
  );
}
