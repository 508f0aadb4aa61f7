/** Moves rows apart until none is nearer to another than a gap, in px; none below the foot while there is room above. */
export function spread(rows: number[], gap: number, foot = Infinity): number[] {
  const order = rows.map((y, i) => [y, i] as const).sort((a, b) => a[0] - b[0]);
  const found = new Array<number>(rows.length);
  let last = -Infinity;
  for (const [y, i] of order) {
    last = Math.max(y, last + gap);
    found[i] = last;
  }
  let next = foot + gap;
  for (const [, i] of order.toReversed()) {
    next = Math.min(found[i]!, next - gap);
    found[i] = next;
  }
  return found;
}
