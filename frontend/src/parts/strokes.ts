// Magenta, vermilion and green say how severe something is, so no curve has them.
const STROKES = ["var(--deep)", "var(--ink)", "var(--land)", "var(--ink-2)"];
const DASHES = ["", "8 4", "2 4", "10 3 2 3", "5 3", "1 5"];

/** The stroke of the curve at a place in a list: its colour and, since colour alone says little, its dashes. */
export const strokeOf = (i: number) => ({
  stroke: STROKES[i % STROKES.length]!,
  strokeDasharray: DASHES[(i + Math.floor(i / STROKES.length)) % DASHES.length]!,
});
