import { useMutation, useQuery } from "@tanstack/react-query";
import { Plus, X } from "lucide-react";
import { useState } from "react";
import { answer, api, type Schemas } from "../../api/client";
import { Button, TextInput } from "../../parts/controls";
import { Failed, Loading } from "../../parts/states";
import { short } from "../../parts/table";
import { asNumber } from "../../parts/typed";
import type { Doc } from "./schema";

export type Calibrated = Schemas["Calibrated"];

type Row = { at: string; value: string };

const KNOB = ["0", "5", "10"];

interface Props {
  doc: Doc;
  name: string;
  /** What the button that keeps the table says. */
  keep: string;
  onKeep: (table: Calibrated) => void;
  busy?: boolean;
}

/** The dB of an attenuator's positions from volts or levels: a knob without numbers, or steps that only say “half”. */
export function Calibrate(props: Props) {
  const query = useQuery({
    queryKey: ["positions", props.doc],
    queryFn: () => answer(api.POST("/api/tools/positions", { body: { box: props.doc } })),
    staleTime: Infinity,
    retry: false,
  });
  if (query.error) return <Failed error={query.error} retry={() => void query.refetch()} />;
  if (!query.data) return <Loading what="its positions" />;
  return <Readings {...props} positions={query.data} />;
}

function Readings({
  doc,
  name,
  keep,
  onKeep,
  busy = false,
  positions,
}: Props & { positions: Schemas["Positions"] }) {
  const halves = useQuery({
    queryKey: ["half"],
    queryFn: () => answer(api.GET("/api/tools/half")),
    staleTime: Infinity,
  }).data?.halves;
  /** The steps a box has, by their names; a knob has none: it can be read anywhere. */
  const steps = positions.steps ? positions.names : undefined;
  const has = positions.names.length;
  const [unit, setUnit] = useState<"V" | "dB">("V");
  const [rows, setRows] = useState<Row[]>(() =>
    (has ? positions.names : KNOB).map((at) => ({ at, value: "" })),
  );
  /** A table is that of the readings it was made from: it goes when they, or what they are of, change. */
  const changeRows = (next: Row[]) => {
    work.reset();
    setRows(next);
  };
  const set = (i: number, change: Partial<Row>) =>
    changeRows(rows.map((row, at) => (at === i ? { ...row, ...change } : row)));
  const read = rows.filter((r) => r.at.trim() && r.value.trim());
  const work = useMutation({
    mutationFn: () => {
      const pairs = read.map((r) => ({ at: r.at.trim(), value: asNumber(r.value) }));
      const reference = read[0]?.at.trim() ?? "";
      return answer(api.POST("/api/tools/knob", { body: { box: doc, pairs, reference, unit } }));
    },
  });
  return (
    <>
      <p className="text-[12.5px] text-ink-2">
        The same note at every position; the first one that was read counts as 0 dB. Volts at the speaker are
        surer than a level. A position read twice gives its own ±.
        {steps && " Steps that are not read keep what they have."}
      </p>
      <div className="mt-2 flex gap-4 text-[13px]">
        {(["V", "dB"] as const).map((each) => (
          <label key={each} className="flex min-h-[24px] items-center gap-1.5">
            <input
              type="radio"
              name="read-in"
              className="accent-[var(--deep)]"
              checked={unit === each}
              onChange={() => {
                work.reset();
                setUnit(each);
              }}
            />
            {each === "V" ? "volts" : "levels in dB"}
          </label>
        ))}
      </div>
      {rows.map((row, i) => (
        <div key={i} className="mt-1.5 flex items-center gap-1.5 text-[13px]">
          at
          {steps ? (
            <select
              aria-label={`Position ${i + 1}`}
              className="h-8 w-24 rounded-md border border-line bg-sheet px-1"
              value={row.at}
              onChange={(e) => set(i, { at: e.target.value })}
            >
              {steps.map((step) => (
                <option key={step} value={step}>
                  {step}
                </option>
              ))}
            </select>
          ) : (
            <TextInput
              aria-label={`Position ${i + 1}`}
              className="!w-24"
              maxLength={20}
              value={row.at}
              onChange={(e) => set(i, { at: e.target.value })}
            />
          )}
          <TextInput
            aria-label={`Reading ${i + 1}`}
            inputMode="decimal"
            className="!w-20"
            value={row.value}
            onChange={(e) => set(i, { value: e.target.value })}
          />
          {unit}
          <Button
            look="quiet"
            className="!px-1"
            aria-label={`Remove position ${i + 1}`}
            disabled={rows.length <= 2}
            onClick={() => changeRows(rows.filter((_, at) => at !== i))}
          >
            <X size={14} />
          </Button>
        </div>
      ))}
      <div className="mt-1.5 flex gap-2">
        <Button look="quiet" onClick={() => changeRows([...rows, { at: steps?.[0] ?? "", value: "" }])}>
          <Plus size={14} /> {steps ? "Reading" : "Position"}
        </Button>
        <Button disabled={read.length < 2 || work.isPending} onClick={() => work.mutate()}>
          Make the table
        </Button>
      </div>
      {halves && (
        <details className="mt-2 text-[13px]">
          <summary className="cursor-pointer font-semibold">It only says “half”</summary>
          <p className="mt-1 text-ink-2">
            Half of what? Nobody knows until it is read, and until then it is judged at its worst. It may mean{" "}
            {halves.map(({ name: what, db }) => `${what} (${short(db)} dB down)`).join(", ")}: read it.
          </p>
        </details>
      )}
      {work.error && <Failed error={work.error} />}
      {work.data && (
        <section aria-label="Table of positions" className="mt-2 border-t border-line pt-2">
          <table className="w-full text-[13px]">
            <thead className="text-left text-ink-2">
              <tr>
                <th className="font-medium">Position</th>
                <th className="font-medium">Down</th>
                <th className="font-medium">±</th>
              </tr>
            </thead>
            <tbody>
              {work.data.marks.map((mark) => (
                <tr key={mark.at} className="border-t border-line">
                  <td className="font-semibold">{mark.at}</td>
                  <td>{mark.down_db == null ? "not known" : `${short(mark.down_db)} dB`}</td>
                  <td>{mark.down_db == null ? "" : `${short(mark.spread ?? 0)} dB`}</td>
                </tr>
              ))}
            </tbody>
          </table>
          <Button look="main" className="mt-2" disabled={busy} onClick={() => onKeep(work.data)}>
            {keep}
          </Button>
          <p className="mt-1 text-[12px] text-ink-2">
            {has > 0 && !steps && `It replaces the table of ${has} positions that ${name} has. `}
            From then on it counts everywhere; hook-ups that use its old positions say so.
          </p>
        </section>
      )}
    </>
  );
}
