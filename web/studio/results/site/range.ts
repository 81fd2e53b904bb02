import type { DayRange } from '../../../kinds/studio'
import { day, monthOf, shiftDay } from '../../parts/words/time'

// The range and the cuts of Results are in its address, so that a view can be
// sent to a colleague.

export const presets = ['7 days', '28 days', '90 days', 'This month', 'Last month'] as const
export type Preset = (typeof presets)[number]

/** The days of a preset, today included. */
export function rangeOf(preset: Preset, today: string): DayRange {
  if (preset === 'This month') return { from: monthOf(today).from, to: today }
  if (preset === 'Last month') return monthOf(today, -1)
  return { from: shiftDay(today, 1 - Number(preset.split(' ')[0])), to: today }
}

/** Which preset a range is, if any. */
export const presetOf = (range: DayRange, today: string): Preset | undefined =>
  presets.find(p => {
    const is = rangeOf(p, today)
    return is.from === range.from && is.to === range.to
  })

/** 3 to 30 Nov. */
export const rangeText = ({ from, to }: DayRange) => (from === to ? day(from) : `${day(from)} to ${day(to)}`)
