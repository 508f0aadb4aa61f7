export type Cell = string | number | null;

/** A table of numbers that belongs to a chart. */
export interface Table {
  head: string[];
  rows: Cell[][];
}

/** A table as CSV, every cell in quotes. */
export function asCsv({ head, rows }: Table): string {
  return [head, ...rows]
    .map((row) => row.map((cell) => `"${String(cell ?? "").replaceAll('"', '""')}"`).join(","))
    .join("\n");
}

/** At most three significant digits, with a true minus sign. */
export const short = (value: number) => String(Number(value.toPrecision(3))).replace("-", "−");

/** Watts with their unit; what is next to nothing says so. */
export const watts = (value: number) =>
  value < 0.001 ? "under 1 mW" : value < 0.1 ? `${short(value * 1000)} mW` : `${short(value)} W`;

/** How far off a level may be: "± 5 dB", or "+7, −9 dB" where it is not the same both ways. */
export function about({ up, down }: { up: number; down: number }): string {
  const [more, less] = [Math.round(up), Math.round(down)];
  return more === less ? `± ${more} dB` : `+${more}, −${less} dB`;
}

/** A level in dB with its sign. */
export const signed = (db: number) => `${db > 0.04 ? "+" : db < -0.04 ? "−" : ""}${Math.abs(db).toFixed(1)}`;
