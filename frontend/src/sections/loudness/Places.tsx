import { range } from "d3-array";
import { scaleLinear } from "d3-scale";
import { Link } from "react-router";
import type { Change, Schemas } from "../../api/client";
import { ChartFrame } from "../../parts/ChartFrame";
import { about, short } from "../../parts/table";
import { dba, type SoundLevel, type Loudness } from "./useLoudness";

const SELECT = "rounded border border-line bg-sheet px-1 py-0.5 text-[13px]";

function Choice({
  label,
  value,
  none,
  options,
  onChoose,
}: {
  label: string;
  value: string;
  none: string;
  options: Loudness["rooms"];
  onChoose: (id: string) => void;
}) {
  return (
    <select aria-label={label} className={SELECT} value={value} onChange={(e) => onChoose(e.target.value)}>
      <option value="">{none}</option>
      {options.map((o) => (
        <option key={o.id} value={o.id}>
          {o.name}
        </option>
      ))}
    </select>
  );
}

interface Scale {
  ticks: number[];
  /** A level's place along the scale, as SVG takes it. */
  at: (level: number) => string;
}

/** One scale for all places: whole tens, with room for every level, limit and top there is. */
function scaleOf({ places, full }: Loudness["plan"]): Scale {
  const levels = [
    ...places.flatMap((p) => [...(p.dba == null ? [] : [p.dba]), ...(p.limit ? [p.limit.level] : [])]),
    ...full.flatMap((level) => (level == null ? [] : [level])),
  ];
  const most = Math.ceil((Math.max(80, ...levels) + 5) / 10) * 10;
  const least = Math.max(0, Math.floor((Math.min(40, ...levels) - 5) / 10) * 10);
  const part = scaleLinear([least, most], [0, 100]).clamp(true);
  return { ticks: range(least, most, 10), at: (level) => `${part(level)}%` };
}

/** How high the sound stands at a place: now with what is not sure, the limit, and with nothing between. */
function Gauge({ heard, full, scale }: { heard: SoundLevel; full: number | null; scale: Scale }) {
  const { at } = scale;
  const { dba: level, spread, limit } = heard;
  /** What is over the limit is not drawn as if it floated. */
  const floats = Math.min(level ?? 0, limit?.level ?? Infinity);
  const width = (from: number, to: number) => `${parseFloat(at(to)) - parseFloat(at(from))}%`;
  return (
    <svg className="block w-full" height={30} aria-hidden>
      {scale.ticks.map((tick) => (
        <line key={tick} x1={at(tick)} x2={at(tick)} y1={0} y2={30} className="stroke-line" />
      ))}
      {level != null && (
        <g>
          <rect x="0" y={7} width={at(floats)} height={16} className="fill-water" />
          <rect
            x={at(level - spread.down)}
            y={12}
            width={width(level - spread.down, level + spread.up)}
            height={6}
            className="fill-deep"
          />
          {level > floats && (
            <rect
              x={at(floats)}
              y={7}
              width={width(floats, level)}
              height={16}
              className="fill-caution-fill"
            />
          )}
        </g>
      )}
      {full != null && (
        <line
          x1={at(full)}
          x2={at(full)}
          y1={2}
          y2={28}
          className="stroke-ink-2"
          strokeWidth={2}
          strokeDasharray="4 3"
        />
      )}
      {limit && (
        <line
          x1={at(limit.level)}
          x2={at(limit.level)}
          y1={0}
          y2={30}
          className="stroke-caution"
          strokeWidth={3}
        />
      )}
    </svg>
  );
}

/** What a place's limit says of it, in a few words. */
function Kept({ heard: { over, limit, hour_said, dba: level } }: { heard: SoundLevel }) {
  if (!limit) return <>{hour_said ? "no limit in this session" : "no limit"}</>;
  const said = `${limit.level} dBA, ${limit.start} to ${limit.end}${limit.whose && ` (${limit.whose})`}`;
  if (level == null || over == null) return <>limit {said}</>;
  if (over <= 0) return <>keeps {said}</>;
  return (
    <b className="text-caution">
      {short(Number(over.toPrecision(2)))} dB over {said}
    </b>
  );
}

const ROW = "grid grid-cols-[150px_minmax(0,1fr)_176px] items-center gap-x-4";

/** What is heard everywhere, against the limits; and where everything stands. */
export function Places({
  loudness,
  busy,
  onChange,
  onPlace,
}: {
  loudness: Loudness;
  busy: boolean;
  onChange: (changes: Change[]) => void;
  onPlace: (place: string) => void;
}) {
  const { plan } = loudness;
  const here = plan.places.find((p) => p.place === plan.place);
  const turn = (unit: string, place: string, facing: string) =>
    onChange([{ op: "turn", unit, place, facing: (facing || "at") as Schemas["Turn"]["facing"] }]);
  const scale = scaleOf(plan);
  const table = {
    head: [
      "Place",
      "Now, dBA",
      "Up to, dBA",
      "Down to, dBA",
      "Now, dBC",
      "Nothing between, dBA",
      "Limit, dBA",
      "Readings",
    ],
    rows: plan.places.map((p, i) => [
      p.name,
      p.dba == null ? null : Math.round(p.dba),
      p.dba == null ? null : Math.round(p.dba + p.spread.up),
      p.dba == null ? null : Math.round(p.dba - p.spread.down),
      p.dbc == null ? null : Math.round(p.dbc),
      plan.full[i] == null ? null : Math.round(plan.full[i]),
      p.limit ? `${p.limit.level} from ${p.limit.start} to ${p.limit.end}` : null,
      p.readings,
    ]),
  };
  const over = plan.places.filter((p) => p.over != null && p.over > 0);
  const sentence = over.length
    ? `At their worst ${over.map((p) => p.name).join(" and ")} ${over.length === 1 ? "is" : "are"} over the limit.`
    : "Every limit is kept, as far as can be told.";
  return (
    <ChartFrame title={<b>Places</b>} sentence={sentence} table={table}>
      <div className="flex h-full flex-col gap-3 overflow-y-auto py-2">
        <section aria-label="What is heard">
          <div className={`${ROW} text-[12px] text-ink-2`} aria-hidden>
            <span className="text-right">dBA</span>
            <svg className="block w-full overflow-visible" height={16}>
              {scale.ticks.map((tick) => (
                <text
                  key={tick}
                  x={scale.at(tick)}
                  y={12}
                  textAnchor="middle"
                  className="fill-ink-2 text-[12px]"
                >
                  {tick}
                </text>
              ))}
            </svg>
          </div>
          <ul>
            {plan.places.map((p, i) => (
              <li key={p.place} className={`${ROW} border-t border-line py-1`}>
                <div className="min-w-0">
                  <button
                    type="button"
                    className={`block max-w-full truncate text-left font-semibold hover:underline ${p.place === plan.place ? "text-deep" : ""}`}
                    onClick={() => onPlace(p.place)}
                  >
                    {p.name}
                  </button>
                  {p.ears && <span className="text-[12px] text-ink-2">your ears</span>}
                </div>
                <div className="min-w-0">
                  <Gauge heard={p} full={plan.full[i] ?? null} scale={scale} />
                  <p className="text-[12.5px] text-ink-2">{p.dba == null ? `not told: ${p.why}` : p.way}</p>
                </div>
                <div className="text-[13px]">
                  {p.dba != null && (
                    <p>
                      {p.at_most && "at most "}
                      <b className="text-[15px]">{dba(p.dba)}</b>{" "}
                      <span className="text-ink-2">{about(p.spread)}</span>
                    </p>
                  )}
                  <p className="text-ink-2">
                    <Kept heard={p} />
                  </p>
                </div>
              </li>
            ))}
          </ul>
          <p className="mt-1 border-t border-line pt-1.5 text-[12.5px] text-ink-2">
            Bar: now; narrow band: what is not sure; line: the limit; dashes: nothing between amp and speaker.
            Rooms, partitions, limits and places are kept in the{" "}
            <Link className="text-deep underline" to="/locker?kind=place">
              Locker
            </Link>
            ; presets are estimates until a reading says better. House rules and the harbour’s stand above
            these numbers.
          </p>
        </section>
        <section aria-label="Where it stands" className="flex flex-wrap gap-x-8 gap-y-2">
          {loudness.standing.map((s) => (
            <div key={s.unit} className="flex items-center gap-2 text-[13px]" aria-disabled={busy}>
              <span>
                <b>{s.name}</b> stands in
              </span>
              <Choice
                label={`${s.name} stands in`}
                value={s.room}
                none="not said"
                options={loudness.rooms}
                onChoose={(room) => onChange([{ op: "stand", unit: s.unit, room, mount: null }])}
              />
              {s.sounds && (
                <>
                  on
                  <Choice
                    label={`${s.name} stands on`}
                    value={s.mount}
                    none="the floor"
                    options={loudness.mounts}
                    onChoose={(mount) => onChange([{ op: "stand", unit: s.unit, room: null, mount }])}
                  />
                  {here && s.direct.includes(here.place) && (
                    <>
                      and faces
                      <Choice
                        label={`${s.name}: how it is turned towards ${here.name}`}
                        value={(s.facing ?? {})[here.place] ?? ""}
                        none={here.name}
                        options={loudness.facings}
                        onChoose={(facing) => turn(s.unit, here.place, facing)}
                      />
                    </>
                  )}
                </>
              )}
            </div>
          ))}
          {loudness.standing.length === 0 && (
            <p className="text-[13px] text-ink-2">Nothing in this hook-up makes sound or heat.</p>
          )}
        </section>
      </div>
    </ChartFrame>
  );
}
