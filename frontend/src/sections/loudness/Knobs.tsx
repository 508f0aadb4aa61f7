import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { answer, api } from "../../api/client";
import { FIELD } from "../../parts/controls";
import { Failed } from "../../parts/states";
import { Calibrate, type Calibrated } from "../locker/Calibrate";
import { useGear } from "../locker/gear";
import type { Doc } from "../locker/schema";

/** Which attenuator is calibrated, and keeping what its readings say in the locker. */
export function Knobs() {
  const client = useQueryClient();
  const gear = useGear("", "attenuator", false);
  const entries = gear.data?.entries ?? [];
  const [chosenId, setChosenId] = useState("");
  const chosen = entries.find((e) => e.unit.id === chosenId) ?? entries[0];
  const keep = useMutation({
    mutationFn: (table: Calibrated) =>
      answer(
        api.PUT("/api/gear/{gear_id}", {
          params: { path: { gear_id: chosen!.unit.id } },
          body: { revision: chosen!.revision, unit: { ...chosen!.doc, ...table } },
        }),
      ),
    onSuccess: () => {
      for (const key of ["gear", "loudness", "hookup", "hookups"])
        void client.invalidateQueries({ queryKey: [key] });
    },
  });
  return (
    <div className="min-h-0 flex-1 overflow-y-auto px-4 py-2.5">
      {gear.isSuccess && !chosen && (
        <p className="text-[13px]">
          No attenuator is in the locker.{" "}
          <Link to="/locker" className="text-deep underline">
            Add one
          </Link>
        </p>
      )}
      {chosen && (
        <>
          <select
            aria-label="Attenuator"
            className={`${FIELD} mb-2`}
            value={chosen.unit.id}
            onChange={(e) => {
              keep.reset();
              setChosenId(e.target.value);
            }}
          >
            {entries.map(({ unit: each }) => (
              <option key={each.id} value={each.id}>
                {each.name}
              </option>
            ))}
          </select>
          <Calibrate
            key={`${chosen.unit.id} ${chosen.revision}`}
            doc={chosen.doc as Doc}
            name={chosen.unit.name}
            keep={`Keep it with ${chosen.unit.name}`}
            onKeep={(table) => keep.mutate(table)}
            busy={keep.isPending}
          />
        </>
      )}
      {keep.error && <Failed error={keep.error} />}
    </div>
  );
}
