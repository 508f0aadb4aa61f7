import { Plus, X } from "lucide-react";
import { useState } from "react";
import { Refusal, type Schemas } from "../../api/client";
import { Confirm } from "../../parts/Confirm";
import { Button, Field, FIELD, TextInput } from "../../parts/controls";
import { Empty } from "../../parts/states";
import { asNumber, asNumberIfAny } from "../../parts/typed";
import { ClockField } from "./ClockField";
import { useKind } from "./useKind";
import { ofProject, type Plan, type PlanEdits, type Project, type ProjectChange } from "./usePlan";

type Day = Project["days"][number];
type Person = Project["people"][number];
type Hours = Schemas["Hours"];

const two = (number: number) => String(number).padStart(2, "0");

function dayAfter(date: string): string {
  const next = new Date(`${date}T12:00:00`);
  next.setDate(next.getDate() + 1);
  return `${next.getFullYear()}-${two(next.getMonth() + 1)}-${two(next.getDate())}`;
}

const today = () => {
  const now = new Date();
  return `${now.getFullYear()}-${two(now.getMonth() + 1)}-${two(now.getDate())}`;
};

/** From one time to another. */
function HoursFields({
  hours,
  what,
  onHours,
  onDrop,
}: {
  hours: Hours;
  what: string;
  onHours: (next: Hours) => void;
  onDrop?: () => void;
}) {
  const time = (label: string, key: keyof Hours) => (
    <ClockField
      label={`${what}, ${label}`}
      value={hours[key]}
      onValue={(next) => onHours({ ...hours, [key]: next })}
    />
  );
  return (
    <span className="inline-flex items-center gap-1.5">
      {time("from", "start")} to {time("until", "end")}
      {onDrop && (
        <Button look="quiet" className="!px-1" aria-label={`${what}: take it out`} onClick={onDrop}>
          <X size={14} />
        </Button>
      )}
    </span>
  );
}

function Problems({ edits }: { edits: PlanEdits }) {
  const { error } = edits.change;
  if (!error) return null;
  return (
    <ul role="alert" className="grid gap-1 text-[13px] font-medium text-stop">
      {(error instanceof Refusal ? error.problems : [error.message]).map((said) => (
        <li key={said}>{said}</li>
      ))}
    </ul>
  );
}

/** A day: when somebody is there, what is on, and which limits do not hold on it. */
function DayForm({ day, edits, onDrop }: { day: Day; edits: PlanEdits; onDrop: () => void }) {
  const [now, setNow] = useState(day);
  const places = useKind("place");
  const same = JSON.stringify(now) === JSON.stringify(day);
  const windows = (next: Hours[]) => setNow({ ...now, windows: next });
  return (
    <form
      aria-label={`Day ${day.date}`}
      className="grid gap-2 border-b border-line px-4 py-3"
      onSubmit={(event) => {
        event.preventDefault();
        edits.change.mutate([{ op: "set_day", day: now, was: day.date }]);
      }}
    >
      <div className="flex flex-wrap items-end gap-3">
        <Field label="Date">
          <input
            type="date"
            required
            className={FIELD}
            value={now.date}
            onChange={(event) => setNow({ ...now, date: event.target.value })}
          />
        </Field>
        <div className="min-w-[180px] flex-1">
          <Field label="What is on">
            <TextInput
              maxLength={120}
              placeholder="drummer 10 to 13"
              value={now.note}
              onChange={(event) => setNow({ ...now, note: event.target.value })}
            />
          </Field>
        </div>
      </div>
      <div className="flex flex-wrap items-center gap-3 text-[13px]">
        <span className="font-medium">Somebody is there</span>
        {now.windows.map((hours, i) => (
          <HoursFields
            key={i}
            hours={hours}
            what={`Window ${i + 1}`}
            onHours={(next) => windows(now.windows.map((each, n) => (n === i ? next : each)))}
            onDrop={() => windows(now.windows.filter((_, n) => n !== i))}
          />
        ))}
        {now.windows.length === 0 && <span className="text-ink-2">not at all</span>}
        <Button look="quiet" onClick={() => windows([...now.windows, { start: "19:00", end: "22:00" }])}>
          <Plus size={14} /> Hours
        </Button>
      </div>
      {now.spared.map((spared, i) => (
        <div key={i} className="flex flex-wrap items-center gap-2 text-[13px]">
          <span>No limit at</span>
          <select
            aria-label="Place without its limit"
            className="rounded-md border border-line bg-sheet px-2 py-1"
            value={spared.place}
            onChange={(event) =>
              setNow({
                ...now,
                spared: now.spared.map((each, n) =>
                  n === i ? { ...each, place: event.target.value } : each,
                ),
              })
            }
          >
            {places.map((place) => (
              <option key={place.id} value={place.id}>
                {place.name}
              </option>
            ))}
          </select>
          <HoursFields
            hours={spared.hours}
            what="Without its limit"
            onHours={(hours) =>
              setNow({ ...now, spared: now.spared.map((each, n) => (n === i ? { ...each, hours } : each)) })
            }
            onDrop={() => setNow({ ...now, spared: now.spared.filter((_, n) => n !== i) })}
          />
        </div>
      ))}
      <div className="flex flex-wrap gap-2">
        <Button look={same ? "plain" : "main"} type="submit" disabled={same || edits.change.isPending}>
          Save the day
        </Button>
        {places.length > 0 && (
          <Button
            look="quiet"
            onClick={() =>
              setNow({
                ...now,
                spared: [...now.spared, { place: places[0]!.id, hours: { start: "21:00", end: "22:00" } }],
              })
            }
          >
            A limit does not hold that day …
          </Button>
        )}
        <Button look="quiet" className="ml-auto" onClick={onDrop}>
          Take the day out …
        </Button>
      </div>
    </form>
  );
}

/** Somebody parts need: when they are there, how loud they play, where they listen. */
function PersonForm({
  person,
  plan,
  edits,
  fresh,
  onDone,
}: {
  person: Person;
  plan: Plan;
  edits: PlanEdits;
  fresh: boolean;
  onDone: () => void;
}) {
  const [now, setNow] = useState(person);
  const [level, setLevel] = useState(person.level == null ? "" : String(person.level));
  const places = useKind("place");
  const rooms = useKind("room");
  const first = plan.project.days[0]?.date ?? today();
  return (
    <form
      aria-label={fresh ? "Somebody new" : person.name}
      className="grid gap-2 border-b border-line px-4 py-3"
      onSubmit={(event) => {
        event.preventDefault();
        const id = fresh ? `person-${Date.now().toString(36)}` : person.id;
        edits.change.mutate(
          [{ op: "set_person", person: { ...now, id, level: asNumberIfAny(level) } } as ProjectChange],
          { onSuccess: onDone },
        );
      }}
    >
      <div className="grid grid-cols-2 gap-2 lg:grid-cols-4">
        <Field label="Who">
          <TextInput
            required
            maxLength={80}
            placeholder="The drummer"
            value={now.name}
            onChange={(event) => setNow({ ...now, name: event.target.value })}
          />
        </Field>
        <Field label="Plays at" unit="dBA at 1 m" hint="Empty: makes no sound.">
          <TextInput inputMode="decimal" value={level} onChange={(event) => setLevel(event.target.value)} />
        </Field>
        <Field label="Plays in">
          <select
            className={FIELD}
            value={now.room}
            onChange={(event) => setNow({ ...now, room: event.target.value })}
          >
            <option value="">not said</option>
            {rooms.map((room) => (
              <option key={room.id} value={room.id}>
                {room.name}
              </option>
            ))}
          </select>
        </Field>
        <Field label="Listens at">
          <select
            className={FIELD}
            value={now.place}
            onChange={(event) => setNow({ ...now, place: event.target.value })}
          >
            <option value="">not said: ears not counted</option>
            {places.map((place) => (
              <option key={place.id} value={place.id}>
                {place.name}
              </option>
            ))}
          </select>
        </Field>
      </div>
      <div className="flex flex-wrap items-center gap-3 text-[13px]">
        <span className="font-medium">There</span>
        {now.here.length === 0 && <span className="text-ink-2">always</span>}
        {now.here.map((here, i) => (
          <span key={i} className="inline-flex items-center gap-1.5">
            <select
              aria-label="Day they are there"
              className="rounded-md border border-line bg-sheet px-2 py-1"
              value={here.date}
              onChange={(event) =>
                setNow({
                  ...now,
                  here: now.here.map((each, n) => (n === i ? { ...each, date: event.target.value } : each)),
                })
              }
            >
              {[...new Set([here.date, ...plan.project.days.map((day) => day.date)])].map((date) => (
                <option key={date} value={date}>
                  {plan.days.find((day) => day.date === date)?.name ?? date}
                </option>
              ))}
            </select>
            <HoursFields
              hours={here.hours}
              what="There"
              onHours={(hours) =>
                setNow({ ...now, here: now.here.map((each, n) => (n === i ? { ...each, hours } : each)) })
              }
              onDrop={() => setNow({ ...now, here: now.here.filter((_, n) => n !== i) })}
            />
          </span>
        ))}
        <Button
          look="quiet"
          onClick={() =>
            setNow({ ...now, here: [...now.here, { date: first, hours: { start: "10:00", end: "13:00" } }] })
          }
        >
          <Plus size={14} /> Hours
        </Button>
      </div>
      <div className="flex gap-2">
        <Button look="main" type="submit" disabled={edits.change.isPending}>
          {fresh ? "Add them" : "Save"}
        </Button>
        {!fresh && (
          <Button
            look="quiet"
            onClick={() => edits.change.mutate([{ op: "drop_person", person: person.id }])}
          >
            Take them out
          </Button>
        )}
        {fresh && (
          <Button look="quiet" onClick={onDone}>
            Never mind
          </Button>
        )}
      </div>
    </form>
  );
}

const NOBODY: Person = { id: "new", name: "", level: null, room: "", place: "", here: [] };

/** When somebody is there, and who. Limits come from the places in the Locker. */
export function When({ plan, edits }: { plan: Plan; edits: PlanEdits }) {
  const [dropping, setDropping] = useState<string>();
  const [adding, setAdding] = useState(false);
  const [level, setLevel] = useState(String(plan.project.choosing_level));
  const last = plan.project.days.at(-1);
  const blocks = plan.days.find((day) => day.date === dropping)?.blocks.length ?? 0;
  return (
    <div className="grid min-h-0 flex-1 lg:grid-cols-2 lg:overflow-hidden">
      <section aria-label="Days" className="min-w-0 border-line lg:overflow-y-auto lg:border-r">
        <div className="flex items-center gap-3 border-b border-line px-4 py-2">
          <h2 className="text-[15px] font-bold">Days</h2>
          <span className="min-w-0 flex-1 text-[12.5px] text-ink-2">
            A day lasts until 04:00 of its night. Limits and quiet hours come from the places in the Locker.
          </span>
          <Button
            onClick={() =>
              edits.change.mutate([
                {
                  op: "set_day",
                  day: {
                    date: last ? dayAfter(last.date) : today(),
                    windows: last?.windows ?? [{ start: "10:00", end: "18:00" }],
                    note: "",
                    spared: [],
                  },
                  was: "",
                },
              ])
            }
          >
            <Plus size={14} /> Day
          </Button>
        </div>
        <div className="px-4">
          <Problems edits={edits} />
        </div>
        {plan.project.days.length === 0 && <Empty title="No days yet">Add the first day above.</Empty>}
        {plan.project.days.map((day) => (
          <DayForm
            key={`${day.date} ${JSON.stringify(day)}`}
            day={day}
            edits={edits}
            onDrop={() => setDropping(day.date)}
          />
        ))}
      </section>
      <section aria-label="People" className="min-w-0 lg:overflow-y-auto">
        <div className="flex items-center gap-3 border-b border-line px-4 py-2">
          <h2 className="text-[15px] font-bold">People</h2>
          <span className="min-w-0 flex-1 text-[12.5px] text-ink-2">
            Whoever a part needs beside whoever records: how loud they are counts at every place.
          </span>
          <Button onClick={() => setAdding(true)}>
            <Plus size={14} /> Somebody
          </Button>
        </div>
        {adding && (
          <PersonForm person={NOBODY} plan={plan} edits={edits} fresh onDone={() => setAdding(false)} />
        )}
        {plan.project.people.length === 0 && !adding && (
          <p className="px-4 py-3 text-ink-2">Nobody but whoever records.</p>
        )}
        {plan.project.people.map((person) => (
          <PersonForm
            key={`${person.id} ${JSON.stringify(person)}`}
            person={person}
            plan={plan}
            edits={edits}
            fresh={false}
            onDone={() => undefined}
          />
        ))}
        <form
          aria-label="Ears"
          className="flex flex-wrap items-end gap-2 px-4 py-3"
          onSubmit={(event) => {
            event.preventDefault();
            edits.change.mutate([ofProject({ choosing_level: asNumber(level) })]);
          }}
        >
          <Field
            label="Choosing sounds is listened to at"
            unit="dBA"
            hint="At the desk or in headphones; 75 is typical. It counts for the ears."
          >
            <TextInput inputMode="decimal" value={level} onChange={(event) => setLevel(event.target.value)} />
          </Field>
          <Button type="submit" disabled={level === String(plan.project.choosing_level)}>
            Save
          </Button>
        </form>
      </section>
      <Confirm
        open={dropping !== undefined}
        title={`Take ${dropping ?? ""} out?`}
        yes="Take it out"
        onYes={() => dropping && edits.change.mutate([{ op: "drop_day", date: dropping }])}
        onClose={() => setDropping(undefined)}
      >
        {blocks > 0 && `${blocks} blocks lie on it and go with it. `}It can be undone.
      </Confirm>
    </div>
  );
}
