export type Cell = string | number | null;

/** A table of numbers that belongs to a chart. */
export interface Table {
  head: string[];
  rows: Cell[][];
}

/** At most three significant digits, with a true minus sign. */
export const short = (value: number) => String(Number(value.toPrecision(3))).replace("-", "−");

/** Watts with their unit; small ones are written one way everywhere. */
export const watts = (value: number) =>
  value > 0 && value < 0.001
    ? "under 1 mW"
    : value > 0 && value < 0.1
      ? `${short(value * 1000)} mW`
      : `${short(value)} W`;

/** An impedance with its unit. */
export const ohms = (value: number) => (value >= 1000 ? `${short(value / 1000)} kΩ` : `${short(value)} Ω`);

/** So many decimals, a true minus sign, and no minus before a zero. */
export function fixed(value: number, digits: number): string {
  const text = value.toFixed(digits);
  return (Number(text) === 0 ? text.replace("-", "") : text).replace("-", "−");
}

/** How far off a level may be: "± 5 dB", or "+7, −9 dB" where it is not the same both ways. */
export function about({ up, down }: { up: number; down: number }): string {
  const [more, less] = [Math.round(up), Math.round(down)];
  return more === less ? `± ${more} dB` : `+${more}, −${less} dB`;
}

const SIGNED = new Intl.NumberFormat("en-GB", {
  signDisplay: "exceptZero",
  minimumFractionDigits: 1,
  maximumFractionDigits: 1,
  useGrouping: false,
});

/** A level in dB with one decimal and its sign. */
export const signed = (db: number) => SIGNED.format(db).replace("-", "−");
