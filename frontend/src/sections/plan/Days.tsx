import { useEffect, useRef, useState } from "react";
import { useSize } from "../../parts/useSize";
import { Day, NAMES } from "./Day";
import { blockKey, type BlockState, type DayState, type Plan } from "./usePlan";

/** So far a pointer goes before it drags. */
const SLOP = 5;

interface Drag {
  block: BlockState;
  /** Where in the block it was taken hold of, slots. */
  hold: number;
  x: number;
  y: number;
  date?: string;
  start?: number;
}

/** All days of a plan, one over the other on the same hours; a block that is dragged is pinned where it is let go. */
export function Days({
  plan,
  before,
  chosen,
  onChoose,
  onPin,
}: {
  plan: Plan;
  before?: Plan;
  chosen?: string;
  onChoose: (key?: string) => void;
  onPin: (block: BlockState, day: DayState, slot: number) => void;
}) {
  const { ref, width } = useSize();
  const [drag, setDrag] = useState<Drag>();
  const dragged = useRef(false);
  const from = Math.min(...plan.days.map((day) => day.first), 200);
  const to = Math.max(...plan.days.map((day) => day.last), from + 96);
  const px = Math.max(2, (width - NAMES - 18) / (to - from));
  const hourPx = px * 12;
  const every = hourPx < 24 ? 4 : hourPx < 40 ? 2 : 1;
  useEffect(() => {
    if (!drag) return;
    const move = (event: PointerEvent) => {
      if (!dragged.current && Math.hypot(event.clientX - drag.x, event.clientY - drag.y) < SLOP) return;
      dragged.current = true;
      const days = [...document.querySelectorAll<HTMLElement>("[data-day]")];
      const near = days.toSorted((a, b) => away(a, event.clientY) - away(b, event.clientY))[0];
      if (!near) return;
      const slot = Math.round((event.clientX - near.getBoundingClientRect().left) / px + from - drag.hold);
      const day = plan.days.find((each) => each.date === near.dataset.day);
      const most = (day?.slots ?? 288) - drag.block.slots;
      setDrag({ ...drag, date: near.dataset.day, start: Math.min(most, Math.max(0, slot)) });
    };
    const up = () => {
      const day = plan.days.find((each) => each.date === drag.date);
      if (day && drag.start !== undefined) onPin(drag.block, day, drag.start);
      setDrag(undefined);
      // The click that follows chooses nothing.
      window.setTimeout(() => (dragged.current = false));
    };
    const leave = (event: KeyboardEvent) => event.key === "Escape" && setDrag(undefined);
    window.addEventListener("pointermove", move);
    window.addEventListener("pointerup", up);
    window.addEventListener("keydown", leave);
    return () => {
      window.removeEventListener("pointermove", move);
      window.removeEventListener("pointerup", up);
      window.removeEventListener("keydown", leave);
    };
  }, [drag, px, from, plan.days, onPin]);
  return (
    <div ref={ref} className="grid min-w-0 gap-2 overflow-x-auto px-4 pt-2 pb-4">
      <p className="pl-[96px] text-[12px] text-ink-2">
        water: it may be loud · sand: silent work only · double rule: a loud block · dashed: finding the sound
        · ring: leads are moved
      </p>
      {plan.days.map((day) => (
        <Day
          key={day.date}
          day={day}
          from={from}
          to={to}
          px={px}
          every={every}
          chosen={chosen}
          dragged={drag?.date ? blockKey(drag.block) : undefined}
          ghost={
            drag?.date === day.date && drag.start !== undefined
              ? { start: drag.start, slots: drag.block.slots }
              : undefined
          }
          ghosts={before?.days.find((each) => each.date === day.date)?.blocks ?? []}
          onChoose={(block) => !dragged.current && onChoose(blockKey(block))}
          onGrab={(block, event) => {
            if (event.button !== 0 || block.done) return;
            const box = event.currentTarget.getBoundingClientRect();
            setDrag({ block, hold: (event.clientX - box.left) / px, x: event.clientX, y: event.clientY });
          }}
        />
      ))}
    </div>
  );
}

function away(element: HTMLElement, y: number): number {
  const box = element.getBoundingClientRect();
  return Math.abs((box.top + box.bottom) / 2 - y);
}
