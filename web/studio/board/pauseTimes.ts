import { shiftDay, weekday } from '../parts/words/time'

/** A day later than a wall-clock time, at an hour of the day. */
const dayAfter = (wall: string, hour: string) => shiftDay(wall.slice(0, 10), 1) + hour

/** When a pause that is planned begins unless another time is chosen: at six, today if that is still to come. Times are wall-clock times. */
export const usualStart = (now: string) => (now.slice(11) < '18:00' ? `${now.slice(0, 10)}T18:00` : dayAfter(now, 'T18:00'))

/** When a pause that begins then ends unless another time is chosen: at nine of the next morning. */
export const usualEnd = (start: string, now: string) => dayAfter(Number.isNaN(Date.parse(`${start}Z`)) ? now : start, 'T09:00')

/** The weekend that comes: from Friday at six to Monday at nine; the next one, where this one has begun. */
export function weekend(now: string): { from: string; until: string } {
  let friday = now.slice(0, 10)
  if (now.slice(11) >= '18:00') friday = shiftDay(friday, 1)
  while (weekday(friday) !== 5) friday = shiftDay(friday, 1)
  return { from: `${friday}T18:00`, until: `${shiftDay(friday, 3)}T09:00` }
}
