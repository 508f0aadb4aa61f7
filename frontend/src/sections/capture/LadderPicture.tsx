import { useEffect, useState } from "react";
import type { BenchState, Change } from "../../api/client";
import { ChartFrame } from "../../parts/ChartFrame";
import { FIELD } from "../../parts/controls";
import { asNumber } from "../../parts/typed";
import { useSize } from "../../parts/useSize";
import { GateKnob } from "./GateKnob";
import type { Gate, Ladder, Rung } from "./useLadders";

const AXIS = 40;
const HEAD = 62;
const FOOT = 9;
const GAP = 30;
const CEILINGS = { clips: "clips", limiter: "limiter", takes: "takes" };

const said = (value: number, digits = 1) =>
  `${value > 0 ? "+" : ""}${value.toFixed(digits)}`.replace("-", "−");

/** As it stands within a line: units keep their capitals. */
const lowered = (label: string) => label.charAt(0).toLowerCase() + label.slice(1);

/** A number that is typed: it counts once one is done with it, and comes back where it cannot be read. */
function Typed({ value, name, onSet }: { value: number; name: string; onSet: (value: number) => void }) {
  const [text, setText] = useState<string>();
  const done = () => {
    const to = text === undefined ? undefined : asNumber(text);
    setText(undefined);
    // What is out of bounds is refused by the server, in a sentence that names them.
    if (to !== undefined && to !== null && to !== value) onSet(to);
  };
  return (
    <span className="flex items-center gap-0.5">
      <input
        aria-label={`${name}, typed, dB`}
        inputMode="decimal"
        className="w-[42px] rounded border border-line bg-sheet px-1 text-right text-[12px]"
        value={text ?? said(value, Number.isInteger(value) ? 0 : 1)}
        onFocus={(event) => {
          setText(String(value));
          event.currentTarget.select();
        }}
        onChange={(event) => setText(event.target.value)}
        onBlur={done}
        onKeyDown={(event) => {
          if (event.key === "Enter") event.currentTarget.blur();
          if (event.key === "Escape") {
            setText(undefined);
            event.stopPropagation();
          }
        }}
      />
      dB
    </span>
  );
}

/** What of a column stands in the water, and what over its ceiling. */
function Column({
  rung,
  x,
  width,
  y,
  bottom,
  last,
  ladder,
}: {
  rung: Rung;
  x: number;
  width: number;
  y: (dbu: number) => number;
  bottom: number;
  last: boolean;
  ladder: Ladder;
}) {
  const ceiling = rung.ceiling?.dbu;
  const over = ceiling !== undefined && rung.loud > ceiling;
  const top = over ? ceiling : rung.loud;
  const noise = Math.max(rung.noise, -110);
  const lineAt = y(rung.loud);
  const ceilingAt = ceiling === undefined ? undefined : y(ceiling);
  // The level's number stands over its line, unless its ceiling or a mark of the window is there.
  const crowded =
    last ||
    [rung.ceiling?.dbu, rung.flyback].some(
      (v) => typeof v === "number" && v > rung.loud && lineAt - y(v) < 32,
    );
  return (
    <g>
      {over && (
        <rect x={x} width={width} y={lineAt} height={y(ceiling) - lineAt} className="fill-stop-wash" />
      )}
      <rect
        x={x}
        width={width}
        y={y(top)}
        height={Math.max(0, y(Math.min(top, rung.soft)) - y(top))}
        className="fill-water"
        opacity={0.75}
      />
      <rect
        x={x}
        width={width}
        y={y(Math.min(top, rung.soft))}
        height={Math.max(0, y(noise) - y(Math.min(top, rung.soft)))}
        className="fill-shoal"
      />
      <rect
        x={x}
        width={width}
        y={y(noise)}
        height={Math.max(0, bottom - y(noise))}
        className="fill-line"
        opacity={0.75}
      />
      <path d={`M${x} ${lineAt}h${width}`} className={over ? "stroke-stop" : "stroke-deep"} strokeWidth={3} />
      {ceilingAt !== undefined && (
        <>
          <path d={`M${x} ${ceilingAt}h${width}`} className="stroke-stop" strokeWidth={2} />
          <text x={x + width - 3} y={ceilingAt - 4} textAnchor="end" className="halo fill-stop text-[12px]">
            {CEILINGS[rung.ceiling!.kind]} {said(rung.ceiling!.dbu, 0)}
          </text>
        </>
      )}
      {rung.flyback !== null && rung.flyback !== undefined && (
        <>
          <path
            d={`M${x} ${y(rung.flyback)}h${width}`}
            className="stroke-caution"
            strokeDasharray="6 4"
            strokeWidth={1.6}
          />
          <text
            x={x + width - 3}
            y={y(rung.flyback) - 4}
            textAnchor="end"
            className="halo fill-caution text-[12px]"
          >
            flyback {said(rung.flyback, 0)}
          </text>
        </>
      )}
      {last &&
        ladder.window.map((mark) => (
          <g key={mark}>
            <path
              d={`M${x - 4} ${y(mark + ladder.full_scale)}h${width + 8}`}
              className="stroke-ok"
              strokeDasharray="6 4"
              strokeWidth={1.6}
            />
            <text x={x + width + 6} y={y(mark + ladder.full_scale) + 4} className="fill-ok text-[12px]">
              {`−${-mark}`}
            </text>
          </g>
        ))}
      <text
        x={x + width / 2}
        y={crowded ? lineAt + 16 : lineAt - 6}
        textAnchor="middle"
        className={`text-[13px] font-bold ${over ? "fill-stop" : "fill-ink"}`}
      >
        {said(rung.loud)}
      </text>
      {rung.noise > -108 && bottom - y(noise) > 14 && (
        <text x={x + width / 2} y={y(noise) + 14} textAnchor="middle" className="fill-ink-2 text-[12px]">
          noise {said(rung.noise, 0)}
        </text>
      )}
    </g>
  );
}

/** The line from the jack to the converter as a flight of locks: water between soft and loud, noise its bed, a gate
 * where a control is. */
export function LadderPicture({
  ladder,
  ladders,
  state,
  onLadder,
  onChange,
}: {
  ladder: Ladder;
  ladders: Ladder[];
  state: BenchState;
  onLadder: (input: string) => void;
  onChange: (changes: Change[]) => void;
}) {
  const { ref, width, height } = useSize();
  const [narrow, setNarrow] = useState(false);
  useEffect(() => setNarrow(width < 560), [width]);
  const { rungs } = ladder;
  const right = 30;
  const room = width - AXIS - right;
  const column = Math.max(40, (room - GAP * (rungs.length - 1)) / Math.max(1, rungs.length));
  const whole = Math.max(width, AXIS + right + rungs.length * (narrow ? 76 + GAP : column + GAP) - GAP);
  const wide = narrow ? 76 : column;
  const x = (i: number) => AXIS + i * (wide + GAP);
  const tops = rungs.flatMap((r) => [r.loud, r.ceiling?.dbu ?? r.loud, r.flyback ?? r.loud]);
  const most = Math.ceil((Math.max(20, ...tops) + 3) / 20) * 20;
  const least = Math.max(
    -120,
    Math.floor((Math.min(...rungs.map((r) => Math.max(r.noise, -105))) - 12) / 20) * 20,
  );
  const bottom = height - FOOT;
  const y = (dbu: number) =>
    HEAD + ((most - Math.min(most, Math.max(least, dbu))) / (most - least)) * (bottom - HEAD);
  const ticks = Array.from({ length: (most - least) / 20 + 1 }, (_, i) => most - 20 * i);
  /** Where a control was just put, also before the line has been worked out anew. */
  const value = (gate: Gate) => {
    const unit = state.units.find((u) => u.id === gate.unit);
    return unit?.controls.find((c) => c.control.id === gate.control)?.value ?? gate.value;
  };
  const put = (gate: Gate, to: number | boolean) =>
    onChange([{ op: "set", unit: gate.unit, control: gate.control, value: to }]);
  const called = (gate: Gate) =>
    `${gate.label} of ${state.units.find((u) => u.id === gate.unit)?.name ?? gate.unit}`;
  const sentence =
    ladder.peak === null || ladder.peak === undefined
      ? `The levels are not known: ${ladder.why}.`
      : `Peaks ${said(ladder.peak)} dBFS flat out, ${ladder.over_noise!.toFixed(0)} dB over the noise of ${said(ladder.noise!)} dBFS${ladder.rungs.some((r) => r.typical.length > 0) ? " (typical)" : ""}${ladder.learned ? `; ${ladder.learned}` : ""}. What pedals and boxes hiss themselves is not known and left out.`;
  return (
    <ChartFrame
      label="The line"
      title={
        ladders.length > 1 ? (
          <select
            aria-label="Line to"
            className={`${FIELD} !w-[190px] !py-0.5 font-semibold`}
            value={ladder.input}
            onChange={(event) => onLadder(event.target.value)}
          >
            {ladders.map((each) => (
              <option key={each.input} value={each.input}>
                {each.name}
              </option>
            ))}
          </select>
        ) : (
          <b>To {ladder.name}</b>
        )
      }
      sentence={sentence}
      table={{
        head: ["Point", "Softly, dBu", "Flat out, dBu", "Ceiling, dBu", "Noise, dBu"],
        rows: rungs.map((r) => [
          `${r.name}, ${r.what}`,
          Number(r.soft.toFixed(1)),
          Number(r.loud.toFixed(1)),
          r.ceiling ? `${CEILINGS[r.ceiling.kind]} ${r.ceiling.dbu.toFixed(1)}` : null,
          Number(r.noise.toFixed(1)),
        ]),
      }}
    >
      {rungs.length === 0 ? (
        <p className="pt-3 text-ink-2">{sentence}</p>
      ) : (
        <div ref={ref} className="absolute inset-x-5 inset-y-0 overflow-x-auto overflow-y-hidden">
          <div className="relative h-full" style={{ width: whole }}>
            <svg width={whole} height={height} aria-hidden className="absolute inset-0">
              {ticks.map((t) => (
                <g key={t}>
                  <path d={`M${AXIS - 4} ${y(t)}H${whole - right}`} className="stroke-line" opacity={0.8} />
                  <text x={AXIS - 8} y={y(t) + 4} textAnchor="end" className="fill-ink-2 text-[12px]">
                    {t > 0 ? `+${t}` : String(t).replace("-", "−")}
                  </text>
                </g>
              ))}
              <text x={AXIS - 8} y={HEAD - 12} textAnchor="end" className="fill-ink-2 text-[12px]">
                dBu
              </text>
              {rungs.map((rung, i) => (
                <Column
                  key={`${rung.unit}${rung.what}${i}`}
                  rung={rung}
                  x={x(i)}
                  width={wide}
                  y={y}
                  bottom={bottom}
                  last={i === rungs.length - 1}
                  ladder={ladder}
                />
              ))}
            </svg>
            {rungs.map((rung, i) => {
              const gate = rung.gate;
              return (
                <div
                  key={`${rung.unit}${rung.what}${i}`}
                  className="absolute top-0 flex flex-col items-center text-center text-[12px] leading-tight"
                  style={{ left: x(i) - GAP / 2, width: wide + GAP }}
                >
                  <b className="block max-w-full truncate px-0.5" title={rung.name}>
                    {rung.name}
                  </b>
                  {gate && !gate.down && i > 0 ? (
                    <>
                      <span className="flex items-center justify-center gap-x-1 whitespace-nowrap text-ink-2">
                        {lowered(gate.label)}
                        <Typed value={Number(value(gate))} name={called(gate)} onSet={(v) => put(gate, v)} />
                      </span>
                      {i === rungs.length - 1 && (
                        <span className="max-w-full truncate text-ink-2" title={rung.what}>
                          {rung.what}
                        </span>
                      )}
                    </>
                  ) : gate?.down ? (
                    <label className="flex min-h-[24px] items-center gap-1 text-ink-2">
                      <input
                        type="checkbox"
                        className="accent-[var(--deep)]"
                        checked={Boolean(value(gate))}
                        onChange={(event) => put(gate, event.target.checked)}
                      />
                      {lowered(gate.label)}
                    </label>
                  ) : (
                    <span className="block max-w-full truncate px-0.5 text-ink-2" title={rung.what}>
                      {rung.what}
                    </span>
                  )}
                </div>
              );
            })}
            {rungs.map((rung, i) => {
              const gate = rung.gate;
              if (!gate || gate.down || i === 0) return null;
              return (
                <div
                  key={`${rung.unit}${gate.control}`}
                  className="absolute"
                  style={{ left: x(i) - GAP, width: GAP, top: HEAD, height: bottom - HEAD }}
                >
                  <GateKnob
                    gate={gate}
                    name={called(gate)}
                    value={Number(value(gate))}
                    height={bottom - HEAD}
                    onSet={(v) => put(gate, v)}
                  />
                </div>
              );
            })}
          </div>
        </div>
      )}
    </ChartFrame>
  );
}
