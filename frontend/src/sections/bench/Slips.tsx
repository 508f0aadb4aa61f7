import { useQuery } from "@tanstack/react-query";
import { answer, api, type BenchState, type Change } from "../../api/client";
import { Button } from "../../parts/controls";
import { useSettled } from "../../parts/useSettled";

/** Every slip is judged by itself: not while one edit follows another (ms). */
const AFTER_THE_LAST_EDIT = 700;

interface Props {
  state: BenchState;
  busy: boolean;
  onLight: (about: { units: string[]; leads: string[] } | null) => void;
  onChange: (changes: Change[]) => void;
}

/** One slip from a stop: what a knocked knob or a pulled lead would do, and what keeps it from happening. */
export function Slips({ state, busy, onLight, onChange }: Props) {
  const settled = useSettled(state.saves, AFTER_THE_LAST_EDIT) !== undefined;
  const query = useQuery({
    queryKey: ["slips", state.id, state.saves],
    queryFn: () =>
      answer(api.GET("/api/hookups/{hookup_id}/slips", { params: { path: { hookup_id: state.id } } })),
    enabled: settled && state.units.length > 0,
  });
  const found = query.data?.slips ?? [];
  if (found.length === 0) return null;
  return (
    <li className="border-t border-line px-4 py-2.5 text-[13px]">
      <details>
        <summary className="cursor-pointer font-semibold">
          One slip from a stop: {found.length} way{found.length === 1 ? "" : "s"}
        </summary>
        <ul className="mt-1.5 grid gap-2">
          {found.map((slip) => (
            <li
              key={slip.slip}
              onMouseEnter={() => onLight(slip)}
              onMouseLeave={() => onLight(null)}
              className="border-l-2 border-stop pl-2.5"
            >
              <p>{slip.slip}</p>
              <p className="text-stop">then: {slip.stop}</p>
              {slip.tape.length > 0 ? (
                <Button className="mt-1" disabled={busy} onClick={() => onChange(slip.tape)}>
                  {slip.guard}
                </Button>
              ) : (
                <p className="text-ink-2">Guard: {slip.guard}.</p>
              )}
            </li>
          ))}
        </ul>
      </details>
    </li>
  );
}
