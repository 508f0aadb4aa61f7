const STROKES = ["var(--deep)", "var(--caution)", "var(--ink)", "var(--ok)", "var(--water)", "var(--ink-2)"];
const DASHES = ["", "8 4", "2 4", "10 3 2 3", "5 3", "1 5"];

/** The stroke of the curve at a place in a list: its colour and, since colour alone says little, its dashes. */
export const strokeOf = (i: number) => ({
  stroke: STROKES[i % STROKES.length]!,
  strokeDasharray: DASHES[(i + Math.floor(i / STROKES.length)) % DASHES.length]!,
});
