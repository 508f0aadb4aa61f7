import type { End, LinkView, UnitView } from "../../api/client";

/** A lead as it is drawn: its path, and where its label goes. */
export interface Run {
  link: LinkView;
  d: string;
  x: number;
  y: number;
}

interface Box {
  unit: string;
  left: number;
  right: number;
  top: number;
  bottom: number;
}

interface Jack {
  unit: string;
  x: number;
  y: number;
}

const CLEAR = 9;
const LANE = 9;
const CORNER = 8;
/** In px: half the width of a lead's label, its height, and how far it may lie over a card's empty foot. */
const LABEL = { half: 38, high: 25, over: 4 };
/** No lead runs out of the picture. */
const EDGE = 5;

const inside = (box: Box, x: number, y: number) =>
  x > box.left - 2 && x < box.right + 2 && y > box.top - 2 && y < box.bottom + 2;

/** A point on the curve that a straight hop is drawn as. */
function onCurve(a: Jack, b: Jack, bend: number, t: number): { x: number; y: number } {
  const u = 1 - t;
  const [k0, k1, k2, k3] = [u * u * u, 3 * u * u * t, 3 * u * t * t, t * t * t];
  return {
    x: k0 * a.x + k1 * (a.x + bend) + k2 * (b.x - bend) + k3 * b.x,
    y: k0 * a.y + k1 * a.y + k2 * b.y + k3 * b.y,
  };
}

/** Whether a curve from an output to an input, left to right, meets no card on its way. */
function runsFree(a: Jack, b: Jack, bend: number, boxes: Box[]): boolean {
  if (b.x - a.x < 12) return false;
  const others = boxes.filter((box) => box.unit !== a.unit && box.unit !== b.unit);
  for (let i = 1; i < 24; i++) {
    const { x, y } = onCurve(a, b, bend, i / 24);
    if (others.some((box) => inside(box, x, y))) return false;
  }
  return true;
}

/** A height at which a way from x1 to x2 meets no card and no other lane: the one nearest to both ends. */
function lane(a: Jack, b: Jack, x1: number, x2: number, boxes: Box[], used: [number, number, number][]) {
  const [from, to] = [Math.min(x1, x2), Math.max(x1, x2)];
  const between = boxes.filter((box) => box.right > from - 4 && box.left < to + 4);
  const edges = between.flatMap((box) => [box.top - CLEAR, box.bottom + CLEAR]);
  const heights = edges.flatMap((edge) => [0, 1, 2, 3, 4, 5].map((n) => edge + n * LANE));
  const free = heights.filter(
    (y) =>
      y > 2 &&
      !between.some((box) => y > box.top - 4 && y < box.bottom + 4) &&
      !used.some(([left, right, at]) => Math.abs(at - y) < LANE - 2 && left < to && right > from),
  );
  const cost = (y: number) => Math.abs(y - a.y) + Math.abs(y - b.y);
  return free.length ? free.reduce((best, y) => (cost(y) < cost(best) ? y : best)) : Math.max(a.y, b.y) + 40;
}

/** Where along a lane its label stands: nearest to its middle where it covers no card and no other lane's label. */
function labelOn(y: number, x1: number, x2: number, boxes: Box[], labels: Run[]): number {
  const middle = (x1 + x2) / 2;
  const clear = (x: number) =>
    boxes.every(
      (box) =>
        x + LABEL.half <= box.left ||
        x - LABEL.half >= box.right ||
        y + LABEL.high / 2 <= box.top ||
        y - LABEL.high / 2 >= box.bottom - LABEL.over,
    ) &&
    labels.every((other) => Math.abs(other.x - x) >= 2 * LABEL.half || Math.abs(other.y - y) >= LABEL.high);
  const far = Math.abs(x2 - x1) / 2 - LABEL.half;
  for (let off = 0; off <= far; off += 8) {
    const free = [middle + off, middle - off].find(clear);
    if (free !== undefined) return free;
  }
  return middle;
}

/** Straight pieces with round corners. */
function rounded(points: [number, number][]): string {
  let d = `M${points[0]![0]} ${points[0]![1]}`;
  for (let i = 1; i < points.length - 1; i++) {
    const [p, q, r] = [points[i - 1]!, points[i]!, points[i + 1]!];
    const cut = (one: [number, number]) => {
      const length = Math.hypot(one[0] - q[0], one[1] - q[1]);
      const k = length ? Math.min(CORNER, length / 2) / length : 0;
      return [q[0] + (one[0] - q[0]) * k, q[1] + (one[1] - q[1]) * k];
    };
    const [before, after] = [cut(p), cut(r)];
    d += ` L${before[0]} ${before[1]} Q${q[0]} ${q[1]} ${after[0]} ${after[1]}`;
  }
  const last = points.at(-1)!;
  return `${d} L${last[0]} ${last[1]}`;
}

/** Ways for all leads, from where jacks and cards really stand in the page: direct where free, else round the cards. */
export function runs(state: { units: UnitView[]; links: LinkView[] }, frameElement: HTMLElement): Run[] {
  const frame = frameElement.getBoundingClientRect();
  const scale = frame.width / frameElement.offsetWidth || 1;
  const boxes: Box[] = [...frameElement.querySelectorAll<HTMLElement>("[data-unit]")].map((card) => {
    const r = card.getBoundingClientRect();
    return {
      unit: card.dataset.unit!,
      left: (r.left - frame.left) / scale,
      right: (r.right - frame.left) / scale,
      top: (r.top - frame.top) / scale,
      bottom: (r.bottom - frame.top) / scale,
    };
  });
  const at = (end: End): Jack | null => {
    const ring =
      frameElement.querySelector(`[data-ring="${CSS.escape(end.unit)}/${CSS.escape(end.socket)}"]`) ?? null;
    if (!ring) return null;
    const r = ring.getBoundingClientRect();
    return {
      unit: end.unit,
      x: (r.left + r.width / 2 - frame.left) / scale,
      y: (r.top + r.height / 2 - frame.top) / scale,
    };
  };
  const flow = new Map(
    state.units.flatMap((u) => u.sockets.map((s) => [`${u.id}/${s.socket.id}`, s.socket.flow] as const)),
  );
  const found: Run[] = [];
  const used: [number, number, number][] = [];
  for (const link of state.links) {
    const outFirst = !link.b || flow.get(`${link.a.unit}/${link.a.socket}`) === "out";
    const [first, second] = outFirst ? [link.a, link.b] : [link.b!, link.a];
    const a = at(first);
    if (!a) continue;
    if (!second) {
      const box = boxes.find(({ unit }) => unit === a.unit)!;
      const out = a.x > (box.left + box.right) / 2 ? 1 : -1;
      const b = { x: a.x + out * 46, y: a.y - 22 };
      const d = `M${a.x} ${a.y} C ${a.x + out * 22} ${a.y}, ${b.x - out * 22} ${b.y}, ${b.x} ${b.y}`;
      found.push({ link, d, x: b.x, y: b.y - 16 });
      continue;
    }
    const b = at(second);
    if (!b) continue;
    const bend = Math.max(Math.min(28, (b.x - a.x) * 0.9), Math.abs(b.x - a.x) / 2.2);
    const sides = [a, b].map((jack) => boxes.find((box) => box.unit === jack.unit)!);
    const leavesRight = a.x > (sides[0]!.left + sides[0]!.right) / 2;
    const arrivesLeft = b.x < (sides[1]!.left + sides[1]!.right) / 2;
    if (leavesRight && arrivesLeft && runsFree(a, b, bend, boxes)) {
      const d = `M${a.x} ${a.y} C ${a.x + bend} ${a.y}, ${b.x - bend} ${b.y}, ${b.x} ${b.y}`;
      found.push({ link, d, x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 - 17 });
      continue;
    }
    const step = 13 + (found.length % 4) * 6;
    const within = (x: number) => Math.min(frameElement.offsetWidth - EDGE, Math.max(EDGE, x));
    const x1 = within(a.x + (leavesRight ? step : -step));
    const x2 = within(b.x + (arrivesLeft ? -step : step));
    const y = lane(a, b, x1, x2, boxes, used);
    used.push([Math.min(x1, x2), Math.max(x1, x2), y]);
    found.push({
      link,
      d: rounded([
        [a.x, a.y],
        [x1, a.y],
        [x1, y],
        [x2, y],
        [x2, b.y],
        [b.x, b.y],
      ]),
      x: labelOn(y, x1, x2, boxes, found),
      y,
    });
  }
  return found;
}

/** The same with labels moved apart that would lie on top of each other, for labels of a height in px. */
export function labelsApart(found: Run[], high: number): Run[] {
  const beside = (one: Run, other: Run) => Math.abs(one.x - other.x) < 60;
  const placed: Run[] = [];
  for (const run of found.toSorted((a, b) => a.y - b.y)) {
    const above = placed.filter((other) => beside(run, other) && Math.abs(other.y - run.y) < high);
    placed.push(above.length ? { ...run, y: Math.max(...above.map((r) => r.y)) + high } : run);
  }
  return placed;
}
