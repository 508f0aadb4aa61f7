import { useQuery } from "@tanstack/react-query";
import { ChevronLeft, ChevronRight } from "lucide-react";
import { answer, api, type Schemas } from "../../api/client";
import { Button } from "../../parts/controls";
import { Failed } from "../../parts/states";
import { useSize } from "../../parts/useSize";
import { dayWords } from "./useLog";

type Day = Schemas["Watch"];

const NAMES = 44;
/** As wide as a finger or a pointer needs it. */
const TARGET = 24;
const LANES = 3;
const BAND =
  "absolute h-[15px] overflow-hidden rounded-sm px-1 text-[11px] leading-[15px] text-ellipsis whitespace-nowrap";

const minutesWords = (minutes: number) =>
  minutes < 1 ? `${Math.round(minutes * 60)} s` : `${Math.round(minutes)} min`;

/** The clock at a minute of the day, by the full hour before it. */
function clockAt(day: Day, minute: number) {
  const hour = day.hours.findLast((h) => h.minute <= minute) ?? day.hours[0]!;
  const past = Math.floor(minute - hour.minute);
  return `${hour.label}:${String(past).padStart(2, "0")}${hour.again ? " (for the second time)" : ""}`;
}

/** Takes side by side where they would lie on each other: the lane of each. */
function lanesOf(takes: Day["takes"], px: number) {
  const ends: number[] = [];
  return takes.map((take) => {
    const at = take.start * px;
    let lane = ends.findIndex((end) => end <= at);
    if (lane < 0) lane = ends.length < LANES ? ends.length : ends.indexOf(Math.min(...ends));
    ends[lane] = at + Math.max(TARGET, (take.minutes ?? 0) * px);
    return lane;
  });
}

function Row({ name, height, children }: { name: string; height: number; children?: React.ReactNode }) {
  return (
    <div className="flex" style={{ height }}>
      <span className="shrink-0 text-[11.5px] leading-[16px] text-ink-2" style={{ width: NAMES }}>
        {name}
      </span>
      <div className="relative flex-1">{children}</div>
    </div>
  );
}

/** Limits of the day: a band for each place, named where there is room. */
function Quiet({ day, px }: { day: Day; px: number }) {
  const places = [...new Set(day.quiet.map((q) => q.place))];
  return (
    <Row name="quiet" height={16 * places.length}>
      {day.quiet.map((span) => {
        const said = `${span.level} dBA, ${span.name}`;
        const until = `${clockAt(day, span.start)} to ${clockAt(day, span.stop)}`;
        return (
          <span
            key={`${span.place} ${span.start}`}
            title={`At most ${said}, ${until}`}
            style={{
              left: span.start * px,
              width: (span.stop - span.start) * px,
              top: 16 * places.indexOf(span.place),
            }}
            className={`${BAND} bg-shoal text-ink`}
          >
            {said}
          </span>
        );
      })}
    </Row>
  );
}

function On({ day, px }: { day: Day; px: number }) {
  return (
    <Row name="on" height={16}>
      {day.on.map((span, i) => {
        const from = span.from_before ? "since the day before" : `from ${clockAt(day, span.start)}`;
        const until = span.still ? "still on" : `until ${clockAt(day, span.stop)}`;
        return (
          <span
            key={i}
            title={`${span.name}: ${span.odd || `${from}, ${until}`}`}
            style={{ left: span.start * px, width: Math.max(5, (span.stop - span.start) * px) }}
            className={`${BAND} text-paper ${span.odd ? "bg-caution-fill" : "bg-ink-2"}`}
          >
            {span.name}
          </span>
        );
      })}
    </Row>
  );
}

function Takes({
  day,
  px,
  current,
  onOpen,
}: {
  day: Day;
  px: number;
  current?: number;
  onOpen: (id: number) => void;
}) {
  const lanes = lanesOf(day.takes, px);
  return (
    <Row name="takes" height={TARGET * Math.max(1, ...lanes.map((lane) => lane + 1))}>
      {day.takes.map((take, i) => {
        const length = take.minutes === null ? "no recording" : minutesWords(take.minutes);
        const width = Math.max(TARGET, (take.minutes ?? 0) * px);
        return (
          <button
            key={take.id}
            type="button"
            aria-current={take.id === current || undefined}
            aria-label={`Take ${take.number}, ${take.name}, ${clockAt(day, take.start)}, ${length}`}
            title={`${take.number}. ${take.name}, ${clockAt(day, take.start)}, ${length}`}
            style={{
              left: Math.min(take.start * px, day.minutes * px - width),
              width,
              top: TARGET * lanes[i]!,
            }}
            onClick={() => onOpen(take.id)}
            className="as-drawn absolute flex h-6 items-center"
          >
            <span
              className={`flex h-[18px] w-full items-center justify-center rounded text-[11px] font-bold ${
                take.id === current
                  ? "bg-ink text-paper"
                  : take.minutes === null
                    ? "border-[1.5px] border-deep bg-sheet text-deep"
                    : "bg-deep text-paper"
              }`}
            >
              {take.number}
            </span>
          </button>
        );
      })}
    </Row>
  );
}

/** How the ears' allowance filled up: a line that never falls, all of the allowance at its top. */
function Ears({ day, px }: { day: Day; px: number }) {
  const corners = day.filled;
  const last = corners.at(-1)!;
  const until = day.now ?? day.minutes;
  const high = (part: number | null) => 22 * (1 - Math.min(1, part ?? 1)) + 1;
  const line = corners.map((c) => `${c.minute * px},${high(c.part)}`);
  if (last.part !== null && until > last.minute) line.push(`${until * px},${high(last.part)}`);
  const over = last.part === null || last.part > 1;
  const said = last.part === null ? "over any allowance" : `${Math.round(last.part * 100)} %`;
  const end = last.part === null ? last.minute : until;
  return (
    <Row name="ears" height={24}>
      <svg
        role="img"
        aria-label={`Ears: ${said} of the allowance used, ${day.school}`}
        width={day.minutes * px}
        height={24}
        className="absolute overflow-visible"
      >
        <path d={`M0 1H${day.minutes * px}`} className="stroke-line" strokeDasharray="2 3" />
        <polygon
          points={`0,23 ${line.join(" ")} ${end * px},23`}
          className={over ? "fill-caution-wash" : "fill-shoal"}
        />
        <polyline
          points={line.join(" ")}
          fill="none"
          strokeWidth={2}
          className={over ? "stroke-caution" : "stroke-deep"}
        />
      </svg>
      <span className="halo absolute top-[3px] left-0 text-[11.5px] text-ink">
        {said} of {day.school}
      </span>
    </Row>
  );
}

/** One day of the log as a watch: its hours, quiet ones, what was on, its takes, and the ears' allowance. */
export function Watch({
  date,
  days,
  current,
  onOpen,
  onDay,
}: {
  date: string;
  /** Days there are takes on, the newest first. */
  days: string[];
  current?: number;
  onOpen: (id: number) => void;
  onDay: (date: string) => void;
}) {
  const { ref, width } = useSize();
  const query = useQuery({
    queryKey: ["takes", "day", date],
    queryFn: () => answer(api.GET("/api/log/days/{date}", { params: { path: { date } } })),
    placeholderData: (before) => before,
  });
  const day = query.data;
  const px = day ? (width - NAMES) / day.minutes : 0;
  const every = width < 420 ? 6 : width < 640 ? 4 : 2;
  const before = days.find((d) => d < date);
  const after = days.findLast((d) => d > date);
  return (
    <section aria-label="The day" className="shrink-0 border-b border-line bg-sheet px-4 pt-1.5 pb-2">
      <div className="flex items-center gap-1">
        <Button
          look="quiet"
          className="!px-1"
          aria-label="The day before with takes"
          disabled={!before}
          onClick={() => before && onDay(before)}
        >
          <ChevronLeft size={16} />
        </Button>
        <h2 className="text-[13px] font-semibold">{dayWords(day?.date ?? date)}</h2>
        <Button
          look="quiet"
          className="!px-1"
          aria-label="The next day with takes"
          disabled={!after}
          onClick={() => after && onDay(after)}
        >
          <ChevronRight size={16} />
        </Button>
        {day && (
          <span className="text-[12.5px] text-ink-2">
            {day.takes.length} take{day.takes.length === 1 ? "" : "s"}
            {day.minutes !== 1440 && `, a day of ${day.minutes / 60} hours: the clocks change`}
          </span>
        )}
        <label className="ml-auto text-[12.5px] text-ink-2 max-sm:hidden">
          go to{" "}
          <input
            type="date"
            value={date}
            onChange={(e) => e.target.value && onDay(e.target.value)}
            className="rounded border border-line bg-sheet px-1 py-0.5 text-ink"
          />
        </label>
      </div>
      {query.error && <Failed error={query.error} retry={() => void query.refetch()} />}
      <div ref={ref} className="relative mt-1">
        {day && px > 0 && (
          <>
            <Row name="" height={15}>
              {day.hours
                .filter((h) => Number(h.label) % every === 0)
                .map((h) => (
                  <span
                    key={h.minute}
                    style={{ left: h.minute * px }}
                    className={`absolute text-[11px] text-ink-2 ${h.minute === 0 ? "" : h.minute === day.minutes ? "-translate-x-full" : "-translate-x-1/2"}`}
                  >
                    {h.label}
                    {h.again && " again"}
                  </span>
                ))}
            </Row>
            <div className="absolute top-[15px] bottom-0" style={{ left: NAMES }} aria-hidden>
              {day.hours.map((h) => (
                <span
                  key={h.minute}
                  style={{ left: h.minute * px }}
                  className="absolute h-full border-l border-line/50"
                />
              ))}
              {day.now !== null && (
                <span
                  title="now"
                  style={{ left: day.now * px }}
                  className="absolute h-full border-l-2 border-stop"
                />
              )}
            </div>
            <div className="relative grid gap-0.5">
              {day.quiet.length > 0 && <Quiet day={day} px={px} />}
              {day.on.length > 0 && <On day={day} px={px} />}
              <Takes day={day} px={px} current={current} onOpen={onOpen} />
              {day.filled.some((f) => f.part !== 0) && <Ears day={day} px={px} />}
            </div>
          </>
        )}
      </div>
    </section>
  );
}
