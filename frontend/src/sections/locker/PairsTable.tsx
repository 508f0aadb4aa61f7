import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Printer } from "lucide-react";
import { answer, api, type LockerEntry, type Schemas } from "../../api/client";
import { Button } from "../../parts/controls";
import { VerdictMark } from "../../parts/Mark";
import { Failed, Loading } from "../../parts/states";
import { ohms, watts } from "../../parts/table";
import { useState } from "react";

function Cell({ pair }: { pair?: Schemas["AmpIntoBox"] }) {
  if (!pair)
    return (
      <td className="border-t border-line px-2 py-1.5 align-top text-[12px] text-ink-2">no jack for both</td>
    );
  const spare =
    pair.spare === null
      ? "rating not known"
      : pair.spare < 0
        ? `${watts(-pair.spare)} over`
        : `${watts(pair.spare)} spare`;
  return (
    <td title={pair.why} className="border-t border-line px-2 py-1.5 align-top">
      <span className="flex items-center gap-1.5 font-semibold whitespace-nowrap">
        <VerdictMark severity={pair.severity} size={15} /> {ohms(pair.tap)} tap
      </span>
      <span className="block text-[12px] text-ink-2">{spare}</span>
      {pair.why && <span className="block max-w-[190px] text-[12px]">{pair.why}</span>}
    </td>
  );
}

/** Which of one's amps goes into which load or cabinet, on which tap, and with how much to spare. */
export function PairsTable({ entries }: { entries: LockerEntry[] }) {
  const [beside, setBeside] = useState("");
  const query = useQuery({
    queryKey: ["gear", "pairs", beside],
    queryFn: () => answer(api.GET("/api/pairs", { params: { query: { beside } } })),
    placeholderData: keepPreviousData,
  });
  if (query.error) return <Failed error={query.error} retry={() => void query.refetch()} />;
  if (!query.data) return <Loading what="which amp goes into what" />;
  const { pairs } = query.data;
  const names = new Map(entries.map(({ unit }) => [unit.id, unit.name]));
  const amps = [...new Set(pairs.map((p) => p.amp))];
  const boxes = [...new Set(pairs.map((p) => p.box))];
  const at = new Map(pairs.map((p) => [`${p.amp} ${p.box}`, p]));
  const others = entries.filter(
    ({ unit }) =>
      ["load", "reamp", "cabinet"].includes(unit.kind) && !(unit.kind === "cabinet" && unit.own_lead),
  );
  if (pairs.length === 0 && !beside)
    return (
      <p className="p-6 text-ink-2">
        Once there is an amp and something to hang on it, this says which goes into which.
      </p>
    );
  return (
    <section aria-label="Which amp into what" className="prints h-full overflow-auto px-5 py-4">
      <div className="mb-2 flex flex-wrap items-baseline gap-x-3 gap-y-1">
        <h2 className="text-[17px] font-bold">Which of your amps into what</h2>
        <p className="text-[13px] text-ink-2">
          {beside ? "Both on the amp at one time" : "Each alone on a speaker lead"}, on the best tap, flat
          out.
        </p>
        <label className="no-print flex items-center gap-1.5 text-[13px]">
          Together with
          <select
            className="max-w-[170px] rounded border border-line bg-sheet px-1 py-0.5"
            value={beside}
            onChange={(event) => setBeside(event.target.value)}
          >
            <option value="">nothing else</option>
            {others.map(({ unit }) => (
              <option key={unit.id} value={unit.id}>
                {unit.name}
              </option>
            ))}
          </select>
        </label>
        <Button look="quiet" className="no-print ml-auto" aria-label="Print" onClick={() => window.print()}>
          <Printer size={15} />
        </Button>
      </div>
      <table className="border-collapse text-[13px]">
        <thead>
          <tr>
            <td />
            {amps.map((amp) => (
              <th key={amp} scope="col" className="px-2 pb-1 text-left font-bold">
                {names.get(amp)}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {boxes.map((box) => (
            <tr key={box}>
              <th scope="row" className="border-t border-line py-1.5 pr-3 text-left align-top font-bold">
                {names.get(box)}
              </th>
              {amps.map((amp) => (
                <Cell key={amp} pair={at.get(`${amp} ${box}`)} />
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
