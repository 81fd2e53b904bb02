import type { DayRange } from '../../kinds/studio'
import { day } from '../parts/say'

// The range and the cuts of Results are in its address, so that a view can be
// sent to a colleague.

const iso = (d: Date) => `${d.getFullYear()}-${String(d.getMonth() + 1).padStart(2, '0')}-${String(d.getDate()).padStart(2, '0')}`

/** Today on the clock of a time zone. */
export const todayIn = (zone: string) => {
  try {
    return new Intl.DateTimeFormat('en-CA', { timeZone: zone }).format(new Date())
  } catch {
    return iso(new Date())
  }
}

const shift = (date: string, days: number) => {
  const d = new Date(`${date}T12:00:00`)
  d.setDate(d.getDate() + days)
  return iso(d)
}

export const presets = ['7 days', '28 days', '90 days', 'This month', 'Last month'] as const
export type Preset = (typeof presets)[number]

/** The days of a preset, today included. */
export function rangeOf(preset: Preset, today: string): DayRange {
  const [y, m] = today.split('-').map(Number)
  if (preset === 'This month') return { from: iso(new Date(y, m - 1, 1)), to: today }
  if (preset === 'Last month') return { from: iso(new Date(y, m - 2, 1)), to: iso(new Date(y, m - 1, 0)) }
  return { from: shift(today, 1 - Number(preset.split(' ')[0])), to: today }
}

/** Which preset a range is, if any. */
export const presetOf = (range: DayRange, today: string): Preset | undefined =>
  presets.find(p => {
    const is = rangeOf(p, today)
    return is.from === range.from && is.to === range.to
  })

/** 3 to 30 Nov. */
export const rangeText = ({ from, to }: DayRange) => (from === to ? day(from) : `${day(from)} to ${day(to)}`)
