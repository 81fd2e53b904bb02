import { afterEach, describe, expect, test } from 'vitest'
import { ago, day, dayOf, moment, momentHere, monthOf, nowHere, shiftDay, showClockOf, weekday } from '../studio/parts/words/time'

// Days and moments are the site's, whoever looks from where.

const year = new Date().getUTCFullYear()

describe.each(['UTC', 'America/Los_Angeles', 'Pacific/Kiritimati', 'Asia/Kolkata'])('looked at from %s', viewer => {
  const before = process.env.TZ
  afterEach(() => {
    process.env.TZ = before
  })
  const from = (site: string) => {
    process.env.TZ = viewer
    showClockOf(site)
  }

  test('a day is that day', () => {
    from('Europe/Dublin')
    expect(day(`${year}-03-01`)).toBe('1 Mar')
    expect(day('2019-12-31')).toBe('31 Dec 2019')
  })

  test.each([
    ['Europe/Dublin', '-06-30T23:30:00Z', '1 Jul, 00:30', '-07-01'],
    ['America/Los_Angeles', '-06-30T23:30:00Z', '30 Jun, 16:30', '-06-30'],
    ['Asia/Kolkata', '-01-31T18:29:00Z', '31 Jan, 23:59', '-01-31'],
  ])('a moment is as the clock in %s has it', (site, at, says, on) => {
    from(site)
    expect(moment(year + at)).toBe(says)
    expect(dayOf(year + at)).toBe(year + on)
    expect(day(year + at)).toBe(says.split(',')[0])
  })

  test('a time on the clock is one moment, and back', () => {
    from('Europe/Dublin')
    for (const wall of ['2026-03-29T00:59', '2026-03-29T02:30', '2026-10-25T12:00', '2028-02-29T23:59']) expect(nowHere(momentHere(wall))).toBe(wall)
    // What a clock change skips comes as long after it.
    expect(nowHere(momentHere('2026-03-29T01:30'))).toBe('2026-03-29T02:30')
  })

  test('days are counted over months, leap days and clock changes', () => {
    from('Europe/Dublin')
    expect([shiftDay('2028-02-28', 1), shiftDay('2028-03-01', -1), shiftDay('2026-12-31', 1), shiftDay('2026-03-28', 1), shiftDay('2026-10-24', 2)]).toEqual([
      '2028-02-29',
      '2028-02-29',
      '2027-01-01',
      '2026-03-29',
      '2026-10-26',
    ])
    expect([monthOf('2028-02-10'), monthOf('2027-01-31', -1)]).toEqual([
      { from: '2028-02-01', to: '2028-02-29' },
      { from: '2026-12-01', to: '2026-12-31' },
    ])
    expect(weekday('2026-12-06')).toBe(0)
  })
})

test('a zone that is none leaves UTC', () => {
  showClockOf('Europe/Dublin')
  showClockOf('Nowhere/None')
  expect(moment(`${year}-07-01T00:30:00Z`)).toBe('1 Jul, 00:30')
})

test.each([
  [5, 'just now'],
  [60, 'a minute ago'],
  [3600, '60 minutes ago'],
  [2 * 3600, '2 hours ago'],
  [72 * 3600, '3 days ago'],
  [-30, 'just now'],
])('%i seconds ago is %s', (seconds, says) => {
  expect(ago(new Date(1e12 - seconds * 1000).toISOString(), 1e12)).toBe(says)
})
