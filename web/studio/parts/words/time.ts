// Days and moments as a site's clock has them, whoever looks from where. A day
// is a text such as 2026-12-24; a time on a wall clock 2026-12-24T18:00; a moment
// an ISO 8601 text with its offset, as the server has it.

// The zone of the site on the screen (IANA). There is one site on a screen, and
// all that it shows is on its clock.
let zone = 'UTC'

/** Sets whose clock is shown; one that this browser does not know leaves UTC. */
export function showClockOf(name: string) {
  try {
    new Intl.DateTimeFormat('en-CA', { timeZone: name })
    zone = name
  } catch {
    zone = 'UTC'
  }
}

const isDay = (text: string) => /^\d{4}-\d\d-\d\d$/.test(text)

/** What the clock of a zone shows at a moment. */
export function wallIn(zone: string, at: Date): string {
  const parts = new Intl.DateTimeFormat('en-CA', {
    timeZone: zone,
    hourCycle: 'h23',
    year: 'numeric',
    month: '2-digit',
    day: '2-digit',
    hour: '2-digit',
    minute: '2-digit',
  }).formatToParts(at)
  const of = (type: string) => parts.find(p => p.type === type)!.value
  return `${of('year')}-${of('month')}-${of('day')}T${of('hour')}:${of('minute')}`
}

/** The moment at which the clock of a zone shows a time; of a time that a clock change skips, the one as long after the change. */
export function momentIn(zone: string, wall: string): Date {
  const utc = Date.parse(`${wall.slice(0, 16)}:00Z`)
  const offsetAt = (ms: number) => Date.parse(`${wallIn(zone, new Date(ms))}:00Z`) - ms
  const first = utc - offsetAt(utc)
  return new Date(utc - offsetAt(first))
}

/** What the site's clock shows now. */
export const nowHere = (at = new Date()) => wallIn(zone, at)

/** The moment at which the site's clock shows a time. */
export const momentHere = (wall: string) => momentIn(zone, wall)

/** Today on the site's calendar. */
export const today = () => nowHere().slice(0, 10)

/** The day of a moment on the site's calendar; a day is that day. */
export const dayOf = (at: string) => (isDay(at) ? at : nowHere(new Date(at)).slice(0, 10))

/** A day some days later, or before. */
export const shiftDay = (day: string, days: number) => new Date(Date.parse(`${day}T12:00Z`) + days * 86_400_000).toISOString().slice(0, 10)

/** The day of the week of a day: 0 is Sunday. */
export const weekday = (day: string) => new Date(`${day}T12:00Z`).getUTCDay()

/** The first and the last day of a month, some months from that of a day. */
export function monthOf(day: string, months = 0): { from: string; to: string } {
  const [y, m] = day.split('-').map(Number)
  const on = (month: number, date: number) => new Date(Date.UTC(y, month, date, 12)).toISOString().slice(0, 10)
  return { from: on(m - 1 + months, 1), to: on(m + months, 0) }
}

// The year is said where it is another.
const written = (wall: string, clock: boolean) =>
  new Date(`${clock ? wall : `${wall}T12:00`}Z`).toLocaleString('en-GB', {
    timeZone: 'UTC',
    day: 'numeric',
    month: 'short',
    ...(wall.slice(0, 4) !== nowHere().slice(0, 4) && { year: 'numeric' }),
    ...(clock && { hour: '2-digit', minute: '2-digit' }),
  })

/** A day, or the day of a moment: 3 Nov. */
export const day = (at: string) => written(dayOf(at), false)

/** A moment: 3 Nov, 18:00. */
export const moment = (at: string) => written(nowHere(new Date(at)), true)

/** How long ago a moment was, roughly: a minute ago, 3 hours ago. */
export function ago(at: string, now = Date.now()): string {
  const minutes = Math.max(0, (now - Date.parse(at)) / 60_000)
  if (minutes < 1) return 'just now'
  if (minutes < 90) return minutes < 2 ? 'a minute ago' : `${Math.floor(minutes)} minutes ago`
  return minutes < 48 * 60 ? `${Math.round(minutes / 60)} hours ago` : `${Math.round(minutes / 1440)} days ago`
}
