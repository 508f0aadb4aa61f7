import { useState } from "react";
import { Button, Key } from "../../parts/controls";
import { clockAt } from "./clock";
import { ClockField } from "./ClockField";
import type { BlockState, DayState, Plan } from "./usePlan";

/** Where a block is to stay, typed: the day and the time. */
export function PinForm({
  plan,
  day,
  block,
  onPin,
  onUnpin,
}: {
  plan: Plan;
  day: DayState;
  block: BlockState;
  onPin: (date: string, start: string) => void;
  onUnpin: () => void;
}) {
  const [date, setDate] = useState(day.date);
  const [start, setStart] = useState(clockAt(day, block.start));
  const here = date === day.date && start === clockAt(day, block.start);
  return (
    <form
      aria-label="Pin it"
      className="mt-3 flex flex-wrap items-center gap-2 text-[13px]"
      onSubmit={(event) => {
        event.preventDefault();
        onPin(date, start);
      }}
    >
      <select
        aria-label="Day to pin it on"
        value={date}
        onChange={(event) => setDate(event.target.value)}
        className="rounded-md border border-line bg-sheet px-2 py-1"
      >
        {plan.days.map((each) => (
          <option key={each.date} value={each.date}>
            {each.name}
          </option>
        ))}
      </select>
      <ClockField label="Time to pin it at" value={start} onValue={setStart} />
      <Button type="submit">
        {here ? "Pin it here" : "Pin it there"} {here && !block.pinned && <Key>p</Key>}
      </Button>
      {block.pinned && (
        <Button onClick={onUnpin}>
          Let go <Key>p</Key>
        </Button>
      )}
    </form>
  );
}
