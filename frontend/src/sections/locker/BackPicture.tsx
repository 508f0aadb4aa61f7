import type { Schemas } from "../../api/client";
import { useSize } from "../../parts/useSize";
import { SHORT } from "./contacts";

type Back = Schemas["Back"];
type Jack = Schemas["Jack"];

/** A part of a unit that one has gone into. */
export type Part = { of: "socket" | "control"; id: string } | { of: "inside" };
export const samePart = (a: Part | undefined, b: Part) =>
  a?.of === b.of && (a.of === "inside" || (b.of !== "inside" && a.id === b.id));

const INSIDE: Part = { of: "inside" };

/** In px: rows of sockets, and how far sockets stand from the edge. */
const ROW = 58;
const TOP = 46;
const FOOT = 20;
const EDGE = 30;
const CORE = { width: 124, height: 54 };

const CORES: Record<Back["core"], string> = {
  resistor: "M0 27h26l6-14 12 28 12-28 12 28 12-28 12 28 6-14h26",
  curve: "M0 27h22c8 0 8-22 16-22s8 34 18 34 12-20 26-20c10 0 12 8 20 8h22",
  arms: "M0 20h24l5-9 9 18 9-18 9 18 5-9h63M92 20v6l-8 4 16 8-16 8 8 4v4",
  stage: "M0 27h34M34 4v46l44-23zM78 27h46",
  re_amplifier: "M0 27h18l4-9 8 18 8-18 8 18 4-9h12M66 6v42l36-21zM102 27h22",
  cones: "M0 27h44M44 15v24h14l20 13V2L58 15zM58 15v24",
  switch: "M0 12h40M0 42h40M40 12m-4 0a4 4 0 1 0 8 0a4 4 0 1 0-8 0M44 14l34 13M78 27h46",
  box: "M0 27h34M34 6h56v42H34zM90 27h34",
};

interface Placed {
  jack: Jack;
  x: number;
  y: number;
}

/** Where the sockets of one side stand: evenly about the middle, those that pass the inside by at the foot. */
function placed(jacks: Jack[], x: number, middle: number): Placed[] {
  const order = [...jacks.filter((j) => !j.passes_by), ...jacks.filter((j) => j.passes_by)];
  const alone = order.length === 1 && order[0]!.passes_by;
  return order.map((jack, i) => ({
    jack,
    x,
    y: middle + (alone ? ROW : (i - (order.length - 1) / 2) * ROW),
  }));
}

/** Where wires gather: beside the names of the sockets, and no nearer to the middle than what is drawn there allows. */
const trunkOf = (width: number) => Math.min(196, Math.max(110, (width - CORE.width) / 2 - 92));

function wire({ jack, x, y }: Placed, width: number, middle: number): string {
  const trunk = trunkOf(width);
  const behind = Math.min(196, (width - CORE.width) / 2 - 20);
  const core = { left: (width - CORE.width) / 2, right: (width + CORE.width) / 2 };
  if (jack.flow === "in") return `M${x} ${y}H${trunk}V${middle}H${core.left}`;
  if (jack.passes_by) return `M${trunk + 18} ${middle}V${y}H${x}`;
  return `M${core.right} ${middle}H${width - behind}V${y}H${x}`;
}

/** A unit's working picture: its sockets, what a plug in each does, what is inside, its controls. */
export function BackPicture({
  back,
  chosen,
  onChoose,
}: {
  back: Back;
  chosen?: Part;
  onChoose: (part: Part) => void;
}) {
  const { ref, width } = useSize();
  const trunk = trunkOf(width);
  const ins = back.jacks.filter((j) => j.flow === "in");
  const outs = back.jacks.filter((j) => j.flow === "out");
  const alone = outs.length === 1 && outs[0]!.passes_by ? 3 : 0;
  const rows = Math.max(ins.length, outs.length, alone, 2);
  const height = TOP + rows * ROW + FOOT;
  const middle = TOP + (rows * ROW) / 2;
  const all = [...placed(ins, EDGE, middle), ...placed(outs, width - EDGE, middle)];
  const opening = all.find(({ jack }) => jack.passes_by && jack.contact === "takes_out");
  const core = { left: (width - CORE.width) / 2, top: middle - CORE.height / 2 };
  return (
    <div ref={ref} className="overflow-hidden rounded-[10px] border-2 border-ink bg-sheet">
      <div className="relative" style={{ height }}>
        <svg className="absolute inset-0 size-full" aria-hidden>
          {all.map((at) => (
            <path
              key={at.jack.socket}
              d={wire(at, width, middle)}
              fill="none"
              className={at.jack.level === "speaker" ? "stroke-ink" : "stroke-deep"}
              strokeWidth={at.jack.level === "speaker" ? 4 : 2}
              strokeLinejoin="round"
            />
          ))}
          {opening && (
            <g>
              <rect x={trunk + 30} y={middle - 5} width={34} height={10} className="fill-sheet" />
              <path
                d={`M${trunk + 30} ${middle}l30 -16`}
                className="stroke-ink"
                strokeWidth={3}
                strokeLinecap="round"
              />
              <circle cx={trunk + 30} cy={middle} r={4.5} className="fill-ink" />
              <circle cx={trunk + 64} cy={middle} r={4.5} className="fill-sheet stroke-ink" strokeWidth={2} />
            </g>
          )}
          <g transform={`translate(${core.left} ${core.top})`}>
            <rect width={CORE.width} height={CORE.height} className="fill-sheet" />
            <path
              d={CORES[back.core]}
              fill="none"
              className="stroke-deep"
              strokeWidth={3}
              strokeLinejoin="round"
            />
          </g>
        </svg>
        <span className="absolute top-2 left-3 text-[12px] text-ink-2">
          {ins.some((j) => j.face === "front") ? "front and back" : "back"}
        </span>
        {opening && (
          <span
            className="absolute text-[12px] font-semibold text-caution"
            style={{ left: trunk + 8, top: middle - 42 }}
          >
            opens when {opening.jack.label} has a plug
          </span>
        )}
        <button
          type="button"
          aria-label={`Inside: ${back.inside}`}
          aria-pressed={samePart(chosen, INSIDE)}
          onClick={() => onChoose(INSIDE)}
          className={`absolute rounded-md border-2 hover:border-line ${samePart(chosen, INSIDE) ? "!border-deep" : "border-transparent"}`}
          style={{ ...core, width: CORE.width, height: CORE.height }}
        />
        {all.map(({ jack, x, y }) => {
          const part: Part = { of: "socket", id: jack.socket };
          const short = SHORT[jack.contact] || jack.connector;
          const right = jack.flow === "out";
          return (
            <button
              key={jack.socket}
              type="button"
              data-jack={jack.socket}
              aria-pressed={samePart(chosen, part)}
              title={jack.says}
              onClick={() => onChoose(part)}
              className={`group absolute flex h-[44px] max-w-[210px] items-center gap-2 ${right ? "flex-row-reverse text-right" : "text-left"}`}
              style={{
                top: y - 22,
                ...(right ? { right: width - x - 15 } : { left: x - 15 }),
              }}
            >
              <span
                className={`flex size-[30px] shrink-0 items-center justify-center rounded-full border-2 ${jack.level === "speaker" ? "border-ink" : "border-deep"} ${samePart(chosen, part) ? "bg-water" : "bg-paper group-hover:bg-shoal"}`}
              >
                <span className="size-[9px] rounded-full bg-ink" />
              </span>
              <span className="flex min-w-0 flex-col justify-between self-stretch text-[13px] leading-[18px]">
                <b className="truncate">{jack.label}</b>
                <span
                  className={`truncate text-[12px] ${jack.contact === "unknown" ? "font-semibold text-caution" : "text-ink-2"}`}
                >
                  {short}
                </span>
              </span>
            </button>
          );
        })}
      </div>
      <ul aria-label="Inside and controls" className="flex flex-wrap gap-2 border-t border-line px-3 py-2">
        {[
          { part: INSIDE, label: "Inside", about: back.inside },
          ...back.knobs.map((knob) => ({
            part: { of: "control", id: knob.control } as const,
            label: knob.label,
            about: knob.positions.join(" · "),
          })),
        ].map(({ part, label, about }) => (
          <li key={"id" in part ? part.id : part.of}>
            <button
              type="button"
              aria-pressed={samePart(chosen, part)}
              onClick={() => onChoose(part)}
              className={`rounded-md border px-2 py-0.5 text-left text-[12.5px] leading-tight hover:border-deep ${samePart(chosen, part) ? "border-deep bg-shoal" : "border-line bg-paper"}`}
            >
              <b>{label}</b> <span className="block text-[12px] text-ink-2">{about}</span>
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}
