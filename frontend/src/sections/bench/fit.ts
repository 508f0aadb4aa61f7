import { max, sum } from "d3-array";
import type { UnitView } from "../../api/client";
import type { ControlView } from "./Knob";
import { visible } from "./visible";

/** How much of a unit its card shows: all of it, what matters, or its name and one number. */
export type CardSize = "open" | "brief" | "small";

export interface Card {
  unit: UnitView;
  /** The more, the longer it stays open. */
  weight: number;
}

/** Columns beside each other; a chain that is too long for one goes on in the next, below. */
export interface Band {
  columns: readonly { column: number; width: number }[];
  gap: number;
}

/** How the cards of a hook-up are drawn so that all of it is in the room there is. */
export interface Fit {
  bands: readonly Band[];
  sizes: ReadonlyMap<string, CardSize>;
}

/** The weight of what is being worked on. */
export const WORKED_ON = 4;

/** The room there is, px; `gap`: what is wanted between columns at the least, where labels of leads are long. */
export interface Room {
  width: number;
  height: number;
  gap?: number;
}

export type HeightOf = (unit: UnitView, size: CardSize, width: number) => number;

/** In px. Leads and their labels want the gap; an open card wants room for its jacks and knobs. */
const EDGE = 12;
const GAP = { most: 88, least: 46, small: 20 };
const WIDTH: Record<CardSize, { least: number; most: number }> = {
  open: { least: 178, most: 218 },
  brief: { least: 108, most: 150 },
  small: { least: 78, most: 118 },
};
/** Between cards of a column, and between bands, where leads go back to the left. */
export const BETWEEN = { rows: 16, small: 10, bands: 34 };
const MOST_BANDS = 3;
const RANK: Record<CardSize, number> = { open: 0, brief: 1, small: 2 };
const SMALLER: Record<CardSize, CardSize> = { open: "brief", brief: "small", small: "small" };

const columnsOf = (cards: Card[]) => [...new Set(cards.map((c) => c.unit.column))].sort((a, b) => a - b);

/** The width that columns of these sizes ask for at the least. */
function least(sizes: CardSize[], leastGap = GAP.least): number {
  const gap = sizes.includes("small") ? GAP.small : leastGap;
  return 2 * EDGE + (sizes.length - 1) * gap + sum(sizes, (size) => WIDTH[size].least);
}

/** Columns in the order in which they are given up: the one with the least weight first. */
function byWeight(cards: Card[], columns: number[]): number[] {
  const weight = (column: number) =>
    max(
      cards.filter((c) => c.unit.column === column),
      (c) => c.weight,
    ) ?? 0;
  return [...columns].sort((a, b) => weight(a) - weight(b) || b - a);
}

/** The largest size each column may have, so that all are within the width: the weightiest keep theirs. */
function columnSizes(cards: Card[], columns: number[], width: number, gap: number): Map<number, CardSize> {
  const size = new Map(columns.map((column) => [column, "open" as CardSize]));
  const order = byWeight(cards, columns);
  for (const smaller of ["brief", "small"] as const) {
    for (const column of order) {
      if (least([...size.values()], gap) <= width) return size;
      // What is being worked on stays open beyond all others; the picture then scrolls if it must.
      if (!cards.some((c) => c.unit.column === column && c.weight >= WORKED_ON)) size.set(column, smaller);
    }
  }
  return size;
}

/** Shares what is left of the width among the columns, then among the gaps. */
function bandOf(size: Map<number, CardSize>, width: number, wanted = GAP.least): Band {
  const all = [...size.values()];
  const left = Math.max(0, width - least(all, wanted));
  const wish = sum(all, (s) => WIDTH[s].most - WIDTH[s].least);
  const share = wish ? Math.min(1, left / wish) : 0;
  const columns = [...size].map(([column, s]) => ({
    column,
    width: Math.floor(WIDTH[s].least + share * (WIDTH[s].most - WIDTH[s].least)),
  }));
  const gaps = all.length - 1;
  const leastGap = all.includes("small") ? GAP.small : wanted;
  const room = gaps ? (width - 2 * EDGE - sum(columns, (c) => c.width)) / gaps : GAP.most;
  return { columns, gap: Math.floor(Math.min(GAP.most, Math.max(leastGap, room))) };
}

/** The columns that make their band as high as it is: only what shrinks there helps. */
function highest(bands: Card[][][], heightOf: (card: Card) => number) {
  const high = (column: Card[]) => sum(column, heightOf) + (column.length - 1) * BETWEEN.rows;
  const tops = bands.map((columns) => max(columns, high) ?? 0);
  return {
    total: sum(tops) + (bands.length - 1) * BETWEEN.bands,
    columns: bands.flatMap((columns, i) => columns.filter((c) => high(c) === tops[i])),
  };
}

/** All cards in so many bands, the least weighty made smaller until they are within the height, if they can be. */
function fitIn(
  count: number,
  cards: Card[],
  { width, height, gap = GAP.least }: Room,
  heightOf: HeightOf,
): Fit {
  const columns = columnsOf(cards);
  const length = Math.ceil(columns.length / count);
  const parts = Array.from({ length: count }, (_, i) => columns.slice(i * length, (i + 1) * length)).filter(
    (part) => part.length > 0,
  );
  const chosen = parts.map((part) => columnSizes(cards, part, width, gap));
  const bands = chosen.map((size) => bandOf(size, width, gap));
  const widths = new Map(bands.flatMap((band) => band.columns.map((c) => [c.column, c.width])));
  const size = new Map(chosen.flatMap((each) => [...each]));
  const sizes = new Map(cards.map((c) => [c.unit.id, size.get(c.unit.column)!]));
  const inColumns = parts.map((part) => part.map((column) => cards.filter((c) => c.unit.column === column)));
  // The one that is worked on stays open; where that is too much the picture scrolls.
  const canShrink = (card: Card) => card.weight < WORKED_ON && sizes.get(card.unit.id) !== "small";
  for (;;) {
    const now = highest(inColumns, (c) =>
      heightOf(c.unit, sizes.get(c.unit.id)!, widths.get(c.unit.column)!),
    );
    if (now.total <= height) break;
    const next = now.columns
      .flat()
      .filter(canShrink)
      .sort(
        (a, b) =>
          RANK[sizes.get(a.unit.id)!] - RANK[sizes.get(b.unit.id)!] ||
          a.weight - b.weight ||
          b.unit.row - a.unit.row,
      )[0];
    if (!next) break;
    sizes.set(next.unit.id, SMALLER[sizes.get(next.unit.id)!]);
  }
  return { bands, sizes };
}

/**
 * Sizes and widths of all cards for the room there is, the same for the same input.
 *
 * Cards shrink to what matters first; where that is not enough the chain wraps; where that is not enough either it
 * stays in one band and what is not worked on becomes small.
 */
export function fit(cards: Card[], room: Room, heightOf: HeightOf): Fit {
  // As if nothing were worked on, so that what one goes to does not move to another band.
  const atRest = cards.map((card) => ({ ...card, weight: Math.min(card.weight, WORKED_ON - 1) }));
  let bands = 1;
  while (bands <= MOST_BANDS && isCramped(fitIn(bands, atRest, room, heightOf))) bands++;
  return fitIn(bands > MOST_BANDS ? 1 : bands, cards, room, heightOf);
}

const isCramped = (found: Fit) => [...found.sizes.values()].includes("small");

/** Whether the columns ask for more width than there is to show even what matters of each, with one open. */
export function wantsWidth(columns: number, width: number): boolean {
  return columns > 1 && least(["open", ...Array<CardSize>(columns - 1).fill("brief")]) > width;
}

/** All cards as small as they go: the overview. */
export function allSmall(cards: Card[], width: number): Fit {
  const size = new Map(columnsOf(cards).map((column) => [column, "small" as CardSize]));
  return { bands: [bandOf(size, width)], sizes: new Map(cards.map((c) => [c.unit.id, "small"])) };
}

const TEXT = 6.3;
const rowsOf = (view: ControlView, width: number) => {
  const { control } = view;
  const letters =
    control.label.length + (control.kind === "choice" ? sum(control.options, (o) => o.label.length + 3) : 14);
  return Math.ceil((letters * TEXT) / (width - 24));
};

/** How high a card is likely to be, in px, until it has been drawn and measured. */
export function guessedHeight(unit: UnitView, size: CardSize, width: number): number {
  if (size === "small") return 42;
  const shown = visible(unit, false);
  const sockets = size === "open" ? shown.sockets : shown.sockets.filter((s) => s.lead);
  const ins = sockets.filter((s) => s.socket.flow === "in").length;
  const rows = Math.max(ins, sockets.length - ins);
  if (size === "brief") return 66 + 24 * rows;
  const knobs = sum(
    shown.controls.filter((c) => !c.control.folded),
    (c) => 26 * rowsOf(c, width),
  );
  return 60 + 24 * rows + knobs + 36;
}
