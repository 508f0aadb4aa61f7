import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Plus, X } from "lucide-react";
import { useState } from "react";
import { answer, api } from "../../api/client";
import { Button, FIELD, TextInput } from "../../parts/controls";
import { Failed } from "../../parts/states";
import { short } from "../../parts/table";
import { asNumber } from "../../parts/typed";
import { useGear } from "../locker/gear";
import type { Loudness } from "./useLoudness";

type Row = { at: string; value: string };

/** A knob without numbers, or steps that only say “half”: their dB from volts or from levels. */
export function Knobs({ halves }: { halves: Loudness["halves"] }) {
  const client = useQueryClient();
  const entries = useGear("", "attenuator", false).data?.entries ?? [];
  const [gear, setGear] = useState("");
  const chosen = entries.find((e) => e.unit.id === gear) ?? entries[0];
  const marks = chosen?.doc.marks;
  const has = Array.isArray(marks) ? marks.length : 0;
  const [unit, setUnit] = useState<"V" | "dB">("V");
  const [rows, setRows] = useState<Row[]>([
    { at: "0", value: "" },
    { at: "5", value: "" },
    { at: "10", value: "" },
  ]);
  /** A table is that of the readings it was made from: it goes when they, or what they are of, change. */
  const changeRows = (next: Row[]) => {
    work.reset();
    setRows(next);
  };
  const set = (i: number, change: Partial<Row>) =>
    changeRows(rows.map((row, at) => (at === i ? { ...row, ...change } : row)));
  const work = useMutation({
    mutationFn: () => {
      const pairs = rows
        .filter((r) => r.at.trim() && r.value.trim())
        .map((r) => ({ at: r.at.trim(), value: asNumber(r.value) }));
      return answer(api.POST("/api/tools/knob", { body: { pairs, reference: rows[0]!.at.trim(), unit } }));
    },
  });
  const keep = useMutation({
    mutationFn: () => {
      const doc = { ...chosen!.doc, marks: work.data!.marks };
      return answer(
        api.PUT("/api/gear/{gear_id}", {
          params: { path: { gear_id: chosen!.unit.id } },
          body: { revision: chosen!.revision, unit: doc },
        }),
      );
    },
    onSuccess: () => {
      work.reset();
      for (const key of ["gear", "loudness", "hookup", "hookups"])
        void client.invalidateQueries({ queryKey: [key] });
    },
  });
  return (
    <div className="min-h-0 flex-1 overflow-y-auto px-4 py-2.5">
      <p className="text-[12.5px] text-ink-2">
        The same note at every position; the first row counts as 0 dB. Volts at the speaker are surer than a
        level. A position read twice gives its own ±.
      </p>
      <select
        aria-label="Attenuator"
        className={`${FIELD} mt-2`}
        value={chosen?.unit.id ?? ""}
        onChange={(e) => {
          work.reset();
          setGear(e.target.value);
        }}
      >
        {entries.map(({ unit: each }) => (
          <option key={each.id} value={each.id}>
            {each.name}
          </option>
        ))}
      </select>
      <div className="mt-2 flex gap-4 text-[13px]">
        {(["V", "dB"] as const).map((each) => (
          <label key={each} className="flex items-center gap-1.5">
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
          <TextInput
            aria-label={`Position ${i + 1}`}
            className="!w-20"
            maxLength={20}
            value={row.at}
            onChange={(e) => set(i, { at: e.target.value })}
          />
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
        <Button look="quiet" onClick={() => changeRows([...rows, { at: "", value: "" }])}>
          <Plus size={14} /> Position
        </Button>
        <Button
          disabled={rows.filter((r) => r.value.trim()).length < 2 || work.isPending}
          onClick={() => work.mutate()}
        >
          Make the table
        </Button>
      </div>
      <details className="mt-2 text-[13px]">
        <summary className="cursor-pointer font-semibold">It only says “half”</summary>
        <p className="mt-1 text-ink-2">Half of what? Nobody knows until it is read; it may mean</p>
        <ul>
          {halves.map(({ name, db }) => (
            <li key={name} className="flex items-center gap-2 py-0.5">
              {name}: {short(db)} dB down
              <Button
                look="quiet"
                className="!py-0"
                onClick={() => {
                  setUnit("dB");
                  changeRows([
                    { at: "full", value: "0" },
                    { at: "half", value: String(-db) },
                  ]);
                }}
              >
                take that for now
              </Button>
            </li>
          ))}
        </ul>
      </details>
      {(work.error ?? keep.error) && <Failed error={work.error ?? keep.error} />}
      {work.data && chosen && (
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
                  <td>{short(mark.down_db ?? 0)} dB</td>
                  <td>{short(mark.spread ?? 0)} dB</td>
                </tr>
              ))}
            </tbody>
          </table>
          <Button look="main" className="mt-2" disabled={keep.isPending} onClick={() => keep.mutate()}>
            Keep it with {chosen.unit.name}
          </Button>
          <p className="mt-1 text-[12px] text-ink-2">
            {has > 0 && `It replaces the table of ${has} positions that ${chosen.unit.name} has. `}
            From then on it counts everywhere; hook-ups that use its old positions say so.
          </p>
        </section>
      )}
    </div>
  );
}
