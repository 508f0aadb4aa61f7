import { SLOT_MIN, type DayState } from "./usePlan";

/** What the clock shows at a slot of a day. */
export function clockAt(day: DayState, slot: number): string {
  const hour = day.hours.findLast((each) => each.start <= slot);
  if (!hour) return "";
  const minutes = Math.round((slot - hour.start) * SLOT_MIN);
  return `${hour.words}:${String(minutes).padStart(2, "0")}`;
}

/** "1 h 20 min": a length as it is said. */
export function lengthWords(minutes: number): string {
  const hours = Math.floor(minutes / 60);
  const rest = minutes % 60;
  return [hours ? `${hours} h` : "", rest || !hours ? `${rest} min` : ""].filter(Boolean).join(" ");
}

export const countWords = (count: number, what: string) => `${count} ${what}${count === 1 ? "" : "s"}`;
