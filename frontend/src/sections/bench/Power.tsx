import type { ReactNode } from "react";
import type { Schemas } from "../../api/client";
import { ChartFrame } from "../../parts/ChartFrame";
import { short, signed, watts } from "../../parts/table";

interface Props {
  title: ReactNode;
  power: Schemas["AmpPower"][];
  onLight: (units: string[]) => void;
}

function sentence(power: Props["power"]): string {
  const parts = power.map(({ name, flat, rows }) => {
    if (!rows.length) return `${name} gives its power to nothing.`;
    const sum = rows.reduce((total, row) => total + row.flat, 0);
    return `${name}: ${short(sum)} of ${short(flat)} W accounted for.`;
  });
  return `who takes how much, flat out, by rating. ${parts.join(" ")}`;
}

/** Where each amp's power goes: bars in watts, and dB under the whole. */
export function Power({ title, power, onLight }: Props) {
  const table = {
    head: ["Amp", "Unit", "At the label, W", "Flat out, W", "Under the whole, dB"],
    rows: power.flatMap((amp) => [
      ...amp.rows.map((row) => [
        amp.name,
        row.name,
        short(row.label),
        short(row.flat),
        row.db === null ? null : signed(row.db),
      ]),
      [amp.name, "sum", short(amp.label), short(amp.flat), null],
    ]),
  };
  return (
    <ChartFrame title={title} sentence={sentence(power)} table={table}>
      <div className="h-full overflow-y-auto pt-2 pb-3">
        {power.length === 0 && <p className="text-ink-2">No amp drives anything.</p>}
        {power.map((amp) => (
          <div key={`${amp.unit}${amp.tap}`} className="mb-3">
            <p className="mb-1 text-[13px]">
              <b>{amp.name}</b>, {short(amp.tap)} Ω:{" "}
              {amp.rows.length ? `about ${watts(amp.flat)} flat out` : "nothing takes its power"}
            </p>
            <ul className="grid gap-1">
              {amp.rows.map((row) => (
                <li
                  key={row.unit}
                  onMouseEnter={() => onLight([row.unit])}
                  onMouseLeave={() => onLight([])}
                  className="grid grid-cols-[170px_1fr_150px] items-center gap-3 text-[13px]"
                >
                  <span className="truncate">{row.name}</span>
                  <span className="h-[13px] bg-faint">
                    <span
                      className="block h-full bg-water"
                      style={{ width: `${amp.flat > 0 ? (100 * row.flat) / amp.flat : 0}%` }}
                    />
                  </span>
                  <span>
                    <b>{watts(row.flat)}</b>{" "}
                    <span className="text-ink-2">{row.db === null ? "" : `${signed(row.db)} dB`}</span>
                  </span>
                </li>
              ))}
            </ul>
          </div>
        ))}
      </div>
    </ChartFrame>
  );
}
