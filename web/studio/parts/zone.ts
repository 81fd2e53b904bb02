// Times on a site's wall clock, as texts such as 2026-12-24T18:00, and the
// moments they stand for.

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
