import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answer, api, type BenchState, type Change } from "../../api/client";
import { Button, Field, FIELD } from "../../parts/controls";
import { VerdictMark } from "../../parts/Mark";
import { Failed, Loading } from "../../parts/states";
import { ohms } from "../../parts/table";
import { Panel } from "./Panel";

/** The same hook-up with each other amp one owns: the best tap, the verdict, and what differs. */
export function OtherAmps({
  state,
  onClose,
  onPut,
  onCopy,
}: {
  state: BenchState;
  onClose: () => void;
  onPut: (changes: Change[]) => void;
  /** Made as a hook-up of its own, by this name. */
  onCopy: (changes: Change[]) => void;
}) {
  const amps = state.units.filter((u) => u.kind === "amp");
  const [amp, setAmp] = useState(amps[0]?.id ?? "");
  const query = useQuery({
    queryKey: ["other-amps", state.id, state.saves, amp],
    queryFn: () =>
      answer(
        api.GET("/api/hookups/{hookup_id}/other-amps", {
          params: { path: { hookup_id: state.id }, query: { amp } },
        }),
      ),
    enabled: amp !== "",
  });
  const name = amps.find((u) => u.id === amp)?.name;
  return (
    <Panel title="The same with another amp" about={name ? `instead of ${name}` : ""} onClose={onClose}>
      <div className="min-h-0 flex-1 overflow-y-auto pb-3">
        {amps.length > 1 && (
          <div className="px-4 pb-2">
            <Field label="Instead of">
              <select className={FIELD} value={amp} onChange={(event) => setAmp(event.target.value)}>
                {amps.map((u) => (
                  <option key={u.id} value={u.id}>
                    {u.name}
                  </option>
                ))}
              </select>
            </Field>
          </div>
        )}
        {amps.length === 0 && <p className="px-4 text-[13px] text-ink-2">There is no amp in this hook-up.</p>}
        {query.error && <Failed error={query.error} retry={() => void query.refetch()} />}
        {query.isLoading && amp && <Loading what="each amp in its place" />}
        <ol aria-label="Other amps">
          {query.data?.amps.map((other) => (
            <li key={other.amp} className="grid grid-cols-[22px_1fr] gap-2 border-t border-line px-4 py-2.5">
              <span className="mt-0.5">
                <VerdictMark severity={other.severity} size={17} />
              </span>
              <div className="min-w-0">
                <p className="leading-[1.3] font-semibold">
                  {other.name}, {ohms(other.tap)} tap: {other.words.toLowerCase()}
                </p>
                <ul className="mt-0.5 text-[12.5px] text-ink-2">
                  {other.differs.map((line) => (
                    <li key={line}>{line}</li>
                  ))}
                </ul>
                <p className="mt-1.5 flex flex-wrap gap-2">
                  <Button onClick={() => onPut(other.changes as Change[])}>Put it on the Bench</Button>
                  <Button
                    look="quiet"
                    onClick={() =>
                      onCopy([
                        ...(other.changes as Change[]),
                        { op: "describe", name: `${state.name}, ${other.name}`.slice(0, 120), notes: null },
                      ])
                    }
                  >
                    As a hook-up of its own
                  </Button>
                </p>
              </div>
            </li>
          ))}
        </ol>
        {query.data?.amps.length === 0 && (
          <p className="px-4 text-[13px] text-ink-2">
            No other amp of yours goes in its place: there is none in the locker, or none with jacks enough.
          </p>
        )}
      </div>
    </Panel>
  );
}
