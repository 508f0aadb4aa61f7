/** Labels down a side, pushed apart so that none lies on another. */
export function spread(rows: number[], gap: number): number[] {
  const order = rows.map((y, i) => [y, i] as const).sort((a, b) => a[0] - b[0]);
  const found = new Array<number>(rows.length);
  let last = -Infinity;
  for (const [y, i] of order) {
    last = Math.max(y, last + gap);
    found[i] = last;
  }
  return found;
}
