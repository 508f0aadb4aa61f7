import { Link } from "react-router";
import type { Change } from "../../api/client";
import { ChartFrame } from "../../parts/ChartFrame";
import { short } from "../../parts/table";
import { dba, type Loudness } from "./useLoudness";

const SELECT = "w-full min-w-0 rounded border border-line bg-sheet px-1 py-0.5 text-[13px]";

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
  const { staff } = loudness;
  const table = {
    head: ["Place", "Now, dBA", "±, dB", "Now, dBC", "Nothing between, dBA", "Limit, dBA", "Readings"],
    rows: staff.places.map((p, i) => [
      p.name,
      p.dba == null ? null : Math.round(p.dba),
      short(Number(p.spread.toPrecision(2))),
      p.dbc == null ? null : Math.round(p.dbc),
      staff.full[i] == null ? null : Math.round(staff.full[i]),
      p.limit ? `${p.limit.level} from ${p.limit.start} to ${p.limit.end}` : null,
      p.readings,
    ]),
  };
  const over = staff.places.filter((p) => p.limit && p.dba != null && p.dba + p.spread > p.limit.level);
  const sentence = over.length
    ? `At their worst ${over.map((p) => p.name).join(" and ")} ${over.length === 1 ? "is" : "are"} over the limit.`
    : "Every limit is kept, as far as can be told.";
  return (
    <ChartFrame title={<b>Places</b>} sentence={sentence} table={table}>
      <div className="grid h-full gap-x-8 gap-y-3 overflow-y-auto py-2 xl:grid-cols-[1.5fr_1fr]">
        <section aria-label="What is heard">
          <ul>
            {staff.places.map((p) => {
              const worst = p.dba == null ? null : p.dba + p.spread;
              const breaks = p.limit && worst != null && worst > p.limit.level;
              return (
                <li
                  key={p.place}
                  className="grid grid-cols-[minmax(0,1.3fr)_96px_minmax(0,1.3fr)] items-baseline gap-3 border-t border-line py-1.5"
                >
                  <button
                    type="button"
                    className={`truncate text-left font-semibold hover:underline ${p.place === staff.place ? "text-deep" : ""}`}
                    onClick={() => onPlace(p.place)}
                  >
                    {p.name}
                    {p.ears && <span className="font-normal text-ink-2"> (your ears)</span>}
                  </button>
                  {p.dba == null ? (
                    <span className="col-span-2 text-[13px] text-ink-2">not told: {p.why}</span>
                  ) : (
                    <>
                      <span>
                        {p.at_most && <span className="text-[12px]">at most </span>}
                        <b>{dba(p.dba)}</b>{" "}
                        <span className="text-[12px] text-ink-2">± {Math.round(p.spread)}</span>
                      </span>
                      <span className={`text-[13px] ${breaks ? "font-semibold text-caution" : "text-ink-2"}`}>
                        {p.limit
                          ? `${breaks ? `${short(Number((worst - p.limit.level).toPrecision(2)))} dB over` : "keeps"} ${p.limit.level} dBA, ${p.limit.start} to ${p.limit.end}`
                          : p.hour_said
                            ? "no limit at this hour"
                            : "no limit"}
                      </span>
                      {p.way && <span className="col-span-3 -mt-1 text-[12.5px] text-ink-2">{p.way}</span>}
                    </>
                  )}
                </li>
              );
            })}
          </ul>
          <p className="mt-2 text-[12.5px] text-ink-2">
            Rooms, partitions, limits and places are kept in the{" "}
            <Link className="text-deep underline" to="/locker?kind=place">
              Locker
            </Link>
            . Presets are estimates until a reading says better. House rules and the harbour’s stand above
            these numbers.
          </p>
        </section>
        <section aria-label="Where it stands">
          <div className="grid grid-cols-[1fr_1fr_1fr] items-center gap-x-2 gap-y-1.5">
            <b className="text-[13px]">Stands</b>
            <span className="text-[12.5px] text-ink-2">in</span>
            <span className="text-[12.5px] text-ink-2">on</span>
            {loudness.standing.map((s) => (
              <div key={s.unit} className="contents" aria-disabled={busy}>
                <span className="truncate text-[13px]">{s.name}</span>
                <Choice
                  label={`${s.name} stands in`}
                  value={s.room}
                  none="not said"
                  options={loudness.rooms}
                  onChoose={(room) => onChange([{ op: "stand", unit: s.unit, room, mount: null }])}
                />
                {s.sounds ? (
                  <Choice
                    label={`${s.name} stands on`}
                    value={s.mount}
                    none="the floor"
                    options={loudness.mounts}
                    onChoose={(mount) => onChange([{ op: "stand", unit: s.unit, room: null, mount }])}
                  />
                ) : (
                  <span />
                )}
              </div>
            ))}
            {loudness.standing.length === 0 && (
              <span className="col-span-3 text-[13px] text-ink-2">
                Nothing in this hook-up makes sound or heat.
              </span>
            )}
          </div>
        </section>
      </div>
    </ChartFrame>
  );
}
