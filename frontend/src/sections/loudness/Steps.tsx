import { scaleLinear } from "d3-scale";
import type { Table } from "../../parts/table";
import { short, watts } from "../../parts/table";
import { ChartFrame } from "../../parts/ChartFrame";
import { dba, type Plan } from "./useLoudness";

const NAME = 150;
const RIGHT = 20;
const HEAD = 30;

function tableOf(plan: Plan): Table {
  return {
    head: ["Box", "Position", "Down, dB", "At the speaker", ...plan.places.map((p) => `${p.name}, dBA`)],
    rows: plan.ladders
      .flatMap((l) => l.steps)
      .map((r) => [
        r.name,
        r.position + (r.is_now ? ", as it stands" : ""),
        `${short(r.down_db)}${r.doubt_db ? ` ± ${short(r.doubt_db)}` : ""}`,
        watts(r.watts),
        ...r.levels.map((l) => (l == null ? null : Math.round(l))),
      ]),
  };
}

/** Every step of everything owned on one scale of dB down, with what the limits and the wish ask for. */
export function Steps({ plan, width, height }: { plan: Plan; width: number; height: number }) {
  const { ladders: rows, need_db: need, near_db: near } = plan;
  const asks = plan.bounds.flatMap((b) => (b.down_db == null ? [] : [{ ...b, down: b.down_db }]));
  const beyond = plan.bounds.filter((b) => b.beyond);
  const downs = rows.flatMap((l) => l.steps.map((r) => r.down_db));
  const most = Math.max(30, ...downs, ...asks.map((a) => a.down)) + 2;
  const least = Math.min(0, ...downs, Math.max(-10, (need ?? 0) - near));
  const wished = need != null && need - near >= least;
  const x = scaleLinear([least, most], [NAME, width - RIGHT - 40]);
  const lane = Math.min(
    110,
    Math.max(24, (height - HEAD - 40 - asks.length * 17) / Math.max(1, rows.length)),
  );
  const coarse = rows.filter((l) => l.gaps.length > 0).map((l) => l.name);
  const others = beyond.length
    ? ` The limit of ${beyond.map((b) => b.name).join(" and ")} is not to be kept by ${plan.cabinet} alone: what else sounds is over it.`
    : "";
  const said =
    rows.length === 0
      ? "Nothing that turns down fits into this hook-up."
      : coarse.length
        ? `Hatched: levels that no step of ${coarse.join(" or ")} comes within ${short(near)} dB of.`
        : `Every level within reach is met to within ${short(near)} dB.`;
  const sentence = said + others;
  return (
    <ChartFrame title={<b>Steps</b>} sentence={sentence} table={tableOf(plan)} roomy={beyond.length > 0}>
      {rows.length === 0 ? (
        <p className="pt-3 text-ink-2">Put an attenuator, a load or a re-amplifier into the Locker first.</p>
      ) : (
        <svg
          width={width - 40}
          height={HEAD + rows.length * lane + 26 + asks.length * 17}
          role="img"
          aria-label={sentence}
        >
          <defs>
            <pattern
              id="coarse"
              width="7"
              height="7"
              patternUnits="userSpaceOnUse"
              patternTransform="rotate(45)"
            >
              <path d="M0 0v7" className="stroke-caution" strokeWidth="2.5" />
            </pattern>
          </defs>
          {wished && (
            <rect
              x={x(need - near)}
              y={HEAD - 6}
              width={x(need + near) - x(need - near)}
              height={rows.length * lane + 8}
              className="fill-shoal"
            />
          )}
          {Array.from({ length: Math.floor(most / 5) + 1 }, (_, i) => 5 * i).map((down) => (
            <g key={down}>
              <path
                d={`M${x(down)} ${HEAD - 4}V${HEAD + rows.length * lane}`}
                className="stroke-line"
                strokeOpacity={0.6}
              />
              <text x={x(down)} y={HEAD - 10} textAnchor="middle" className="fill-ink-2 text-[12px]">
                {down === 0 ? "0 dB down" : down}
              </text>
            </g>
          ))}
          {rows.map(({ unit, name, steps, gaps }, i) => {
            const y = HEAD + (i + 0.5) * lane;
            return (
              <g key={unit}>
                <text x={0} y={y + 4} className="fill-ink text-[13px] font-semibold">
                  {name}
                </text>
                <path d={`M${NAME} ${y}H${x(most)}`} className="stroke-line" />
                {gaps.map(({ start, end }) => (
                  <rect
                    key={start}
                    x={x(start)}
                    y={y - 7}
                    width={x(end) - x(start)}
                    height={14}
                    fill="url(#coarse)"
                  />
                ))}
                {steps.map((step) => (
                  <circle
                    key={step.position}
                    cx={x(step.down_db)}
                    cy={y}
                    r={step.is_now ? 7 : 4.5}
                    className={step.is_now ? "fill-ink" : "fill-deep"}
                  >
                    <title>{`${name} ${step.position}: ${short(step.down_db)} dB down, ${watts(step.watts)}`}</title>
                  </circle>
                ))}
              </g>
            );
          })}
          {wished && (
            <g>
              <path
                d={`M${x(need)} ${HEAD - 6}V${HEAD + rows.length * lane + 8}`}
                className="stroke-deep"
                strokeWidth={2.5}
              />
              <text
                x={x(need) - 5}
                y={HEAD + rows.length * lane + 19}
                textAnchor="end"
                className="halo fill-deep text-[12px] font-bold"
              >
                wanted {dba(plan.wanted!)}
              </text>
            </g>
          )}
          {asks.map((ask, i) => (
            <g key={ask.place}>
              {ask.down > least && (
                <path
                  d={`M${x(ask.down)} ${HEAD - 4}V${HEAD + rows.length * lane + 26 + i * 17}`}
                  className="stroke-caution"
                  strokeWidth={2}
                  strokeDasharray="5 3"
                />
              )}
              <text
                x={ask.down > least ? x(ask.down) + (x(ask.down) > width / 2 ? -5 : 5) : x(least)}
                y={HEAD + rows.length * lane + 36 + i * 17}
                textAnchor={ask.down > least && x(ask.down) > width / 2 ? "end" : "start"}
                className="halo fill-caution text-[12px]"
              >
                {ask.name} keeps {dba(ask.limit.level)}{" "}
                {ask.down > least ? "from here on" : "even with nothing between"}
              </text>
            </g>
          ))}
        </svg>
      )}
    </ChartFrame>
  );
}
