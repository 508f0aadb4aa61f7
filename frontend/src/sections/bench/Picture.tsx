import { useEffect, useLayoutEffect, useMemo, useRef, useState } from "react";
import type { BenchState, Change, End } from "../../api/client";
import { useStable } from "../../parts/useStable";
import { CompactCard } from "./CompactCard";
import { allSmall, BETWEEN, fit, guessedHeight, WORKED_ON, type CardSize, type HeightOf } from "./fit";
import { labelsApart, runs, type Run } from "./routing";
import { UnitCard } from "./UnitCard";

/** What of a hook-up is drawn. */
export type Drawn = Pick<BenchState, "units" | "links" | "is_on"> & {
  analysis: Pick<BenchState["analysis"], "marks" | "flows" | "shares" | "amps">;
};

interface Props {
  state: Drawn;
  lit: { units: Set<string>; leads: Set<string> };
  selected?: End;
  /** All units at once, small: names, marks and leads, no controls. */
  overview: boolean;
  /** The room there is, in px; no bound on the height where the page itself scrolls. */
  width: number;
  height: number;
  /** A socket, or a lead by its near end, was pressed; left out where they are only looked at. */
  onSelect?: (end: End) => void;
  onChange: (changes: Change[]) => void;
  onCloseUp: () => void;
  /** It is looked at and pointed at: nothing in it can be moved, and all that it says stands in the cards. */
  still?: boolean;
  /** Leads say what they are, which takes more room than what they carry. */
  leadNames?: boolean;
  /** What pressing a socket or a lead does, in words, where it is not the usual. */
  purpose?: string;
  /** A unit or lead was pressed. */
  onPoint?: (unitOrLead: string) => void;
}

/** Whether two sets of runs are drawn the same. */
const same = (one: Run[], other: Run[]) =>
  one.length === other.length && one.every((run, n) => run.link === other[n]!.link && run.d === other[n]!.d);

/** In px: labels of leads stand on two lines in a narrower gap, and not at all where they would cover the cards. */
const ONE_LINE_GAP = 74;
const LABEL_GAP = 40;

const STROKE: Record<string, string> = { stop: "stroke-stop", caution: "stroke-caution" };
const DASH: Record<string, string | undefined> = {
  instrument: "7 4",
  microphone: "1.5 4",
  digital: "9 3 1.5 3",
  air: "1.5 8",
};

function Lead({ run, severity, lit }: { run: Run; severity: string; lit: boolean }) {
  const speaker = run.link.level === "speaker";
  const ink = STROKE[severity] ?? (speaker ? "stroke-ink" : "stroke-deep");
  return (
    <g fill="none">
      {lit && (
        <path d={run.d} className="stroke-water" strokeOpacity={0.7} strokeWidth={15} strokeLinecap="round" />
      )}
      <path
        d={run.d}
        className={ink}
        strokeWidth={speaker ? 6.5 : 2.4}
        strokeDasharray={DASH[run.link.level]}
      />
      {speaker && <path d={run.d} className="stroke-paper" strokeWidth={1.8} />}
      {!run.link.b && (
        <circle
          cx={Number(run.d.split(" ").at(-2))}
          cy={Number(run.d.split(" ").at(-1))}
          r={5}
          className={`fill-paper ${ink}`}
          strokeWidth={2}
        />
      )}
    </g>
  );
}

const LEVELS: Record<string, string> = {
  speaker: "speaker level",
  line: "line",
  instrument: "instrument",
  microphone: "microphone",
  phones: "headphones",
  digital: "digital",
  air: "air",
};

/** The strokes of the leads that are in the picture. */
function Legend({ levels }: { levels: string[] }) {
  return (
    <p
      aria-hidden
      className="no-print sticky bottom-0 left-0 flex w-full justify-end gap-3 bg-paper px-4 py-0.5 text-[11.5px] text-ink-2"
    >
      {Object.entries(LEVELS)
        .filter(([level]) => levels.includes(level))
        .map(([level, name]) => (
          <span key={level} className="flex items-center gap-1.5">
            {name}
            <svg width="26" height="8">
              <path
                d="M0 4h26"
                className={level === "speaker" ? "stroke-ink" : "stroke-deep"}
                strokeWidth={level === "speaker" ? 6 : 2.2}
                strokeDasharray={DASH[level]}
              />
              {level === "speaker" && <path d="M0 4h26" className="stroke-paper" strokeWidth="1.6" />}
            </svg>
          </span>
        ))}
    </p>
  );
}

/** What of the height is not for cards: the edge above, lanes and the legend below. */
const NOT_FOR_CARDS = 64;

const WEIGHT: Record<string, number> = { stop: 3, caution: 2 };
const cardKey = (unit: string, size: CardSize, width: number) => `${unit} ${size} ${width}`;

/** How high the cards are that have been drawn, by unit, size and width; what is not known yet is guessed. */
function useHeights() {
  const [known, setKnown] = useState<ReadonlyMap<string, number>>(new Map());
  const heightOf: HeightOf = useMemo(
    () => (unit, size, width) => known.get(cardKey(unit.id, size, width)) ?? guessedHeight(unit, size, width),
    [known],
  );
  const measure = useStable((frame: HTMLElement) => {
    const found = [...frame.querySelectorAll<HTMLElement>("[data-size]")].map(
      (card) =>
        [
          cardKey(card.dataset.unit!, card.dataset.size as CardSize, parseFloat(card.style.width)),
          card.offsetHeight,
        ] as const,
    );
    setKnown((before) =>
      found.every(([key, height]) => before.get(key) === height) ? before : new Map([...before, ...found]),
    );
  });
  return { heightOf, measure };
}

/** Bring a unit's card into view and put the focus on its first socket. */
function goToUnit(unit: string) {
  const card = document.querySelector<HTMLElement>(`[data-unit="${CSS.escape(unit)}"]`);
  card?.scrollIntoView({ block: "nearest", inline: "center" });
  card?.querySelector<HTMLElement>("[data-socket]")?.focus({ preventScroll: true });
}

export function Picture({
  state,
  lit,
  selected,
  overview,
  width,
  height,
  onSelect,
  onChange,
  onCloseUp,
  still = false,
  leadNames = false,
  purpose,
  onPoint,
}: Props) {
  const box = useRef<HTMLDivElement>(null);
  const [drawn, setDrawn] = useState<Run[]>([]);
  /** The unit that is worked on: its card stays open. */
  const [opened, setOpened] = useState<string>();
  /** A unit that was pressed while it was small: gone to once it is open. */
  const [going, setGoing] = useState<string>();
  const open = useStable((unit: string) => {
    setOpened(unit);
    onPoint?.(unit);
  });
  const { heightOf, measure } = useHeights();
  const { links } = state;
  const marks = new Map(state.analysis.marks.map((m) => [m.unit, m]));
  const flows = new Map(state.analysis.flows.map((f) => [f.lead, f]));
  const weight = (unit: string) =>
    unit === opened ? WORKED_ON : (WEIGHT[marks.get(unit)?.severity ?? ""] ?? 1);
  const cards = state.units.map((unit) => ({ unit, weight: weight(unit.id) }));
  const fitted = overview
    ? allSmall(cards, width)
    : fit(
        cards,
        { width, height: height - NOT_FOR_CARDS, gap: leadNames ? ONE_LINE_GAP : undefined },
        heightOf,
      );
  const gap = Math.min(...fitted.bands.map((band) => band.gap));
  const oneLine = gap >= ONE_LINE_GAP;
  const stand = JSON.stringify([
    fitted.bands,
    state.units.map((u) => [u.id, u.column, u.row, fitted.sizes.get(u.id)]),
  ]);
  // Measuring makes the browser lay the page out at once, so only what moves a card or a lead asks for it.
  const draw = useStable(() => {
    if (!box.current) return;
    measure(box.current);
    const found = runs(state, box.current);
    setDrawn((before) => (same(before, found) ? before : found));
  });
  useLayoutEffect(() => {
    const element = box.current;
    if (!element) return;
    draw();
    const watcher = new ResizeObserver(draw);
    watcher.observe(element);
    for (const card of element.querySelectorAll("[data-unit]")) watcher.observe(card);
    return () => watcher.disconnect();
  }, [draw, links, stand]);
  useEffect(() => {
    if (overview || !going) return;
    goToUnit(going);
    setGoing(undefined);
  }, [overview, going]);

  return (
    <>
      <h2 className="sr-only">The hook-up</h2>
      <div
        ref={box}
        style={{ rowGap: BETWEEN.bands }}
        className="relative flex min-h-[calc(100%-22px)] w-max min-w-full flex-col px-3 pt-2.5 pb-8"
      >
        <svg className="pointer-events-none absolute inset-0 size-full overflow-visible" aria-hidden>
          {drawn.map((run) => (
            <Lead
              key={run.link.lead}
              run={run}
              severity={flows.get(run.link.lead)?.severity ?? "fine"}
              lit={lit.leads.has(run.link.lead)}
            />
          ))}
        </svg>
        {fitted.bands.map((band) => (
          <div key={band.columns[0]?.column} style={{ columnGap: band.gap }} className="flex items-start">
            {band.columns.map(({ column, width: own }) => (
              <div
                key={column}
                style={{ rowGap: overview ? BETWEEN.small : BETWEEN.rows }}
                className="relative flex flex-col"
              >
                {state.units
                  .filter((u) => u.column === column)
                  .sort((a, b) => a.row - b.row)
                  .map((unit) => {
                    const size = fitted.sizes.get(unit.id) ?? "open";
                    const mark = marks.get(unit.id);
                    const look = {
                      unit,
                      share: state.analysis.shares.find(
                        (s) => s.unit === unit.id && !s.part.startsWith("driver"),
                      ),
                      sees: state.analysis.amps.find((a) => a.unit === unit.id),
                      severity: mark?.severity ?? "fine",
                      power: mark?.power ?? "floats",
                      match: mark?.match ?? "fine",
                      lit: lit.units.has(unit.id),
                      width: own,
                    };
                    return size === "small" ? (
                      <CompactCard
                        key={unit.id}
                        {...look}
                        onFocus={() => {
                          open(unit.id);
                          setGoing(unit.id);
                          onCloseUp();
                        }}
                      />
                    ) : (
                      <UnitCard
                        key={unit.id}
                        {...look}
                        brief={size === "brief"}
                        selected={selected?.unit === unit.id ? selected.socket : undefined}
                        locked={state.is_on}
                        still={still}
                        purpose={purpose}
                        onOpen={open}
                        onSelect={onSelect}
                        onChange={onChange}
                      />
                    );
                  })}
              </div>
            ))}
          </div>
        ))}
        {gap >= LABEL_GAP &&
          !overview &&
          labelsApart(
            drawn.filter((run) => flows.get(run.link.lead)?.text),
            leadNames ? 27 : oneLine ? 21 : 34,
          ).map((run) => {
            const flow = flows.get(run.link.lead)!;
            const edge = { stop: "border-stop", caution: "border-caution" }[flow.severity] ?? "border-ink-2";
            const place = { left: run.x, top: run.y };
            const look = `absolute flex -translate-x-1/2 -translate-y-1/2 items-center border bg-paper text-[11.5px] leading-tight font-semibold ${!oneLine ? "w-min rounded-md px-1" : "rounded-full px-1.5 py-px whitespace-nowrap"} ${edge}`;
            if (!onPoint && !onSelect)
              return (
                <span
                  key={run.link.lead}
                  title={`${run.link.name}: ${run.link.summary}`}
                  style={place}
                  className={look}
                >
                  {flow.text}
                </span>
              );
            return (
              <button
                key={run.link.lead}
                type="button"
                title={`${run.link.name}: ${run.link.summary}`}
                aria-label={`${run.link.name}, ${run.link.summary}, ${flow.text}; ${purpose ?? "see what else may go here"}`}
                onClick={() => (onPoint ? onPoint(run.link.lead) : onSelect?.(run.link.a))}
                style={place}
                className={`${look} ${leadNames ? "min-h-[24px]" : ""}`}
              >
                {flow.text}
              </button>
            );
          })}
      </div>
      <Legend levels={[...new Set(state.links.map((link) => link.level))]} />
    </>
  );
}
