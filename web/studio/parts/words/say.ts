import type { Measure } from '../../../kinds/studio'

// One place that puts numbers in words.

const whole = new Intl.NumberFormat('en')

export const count = (n: number) => whole.format(n)

/** 1 visitor, 2 visitors. */
export const counted = (n: number, one: string, many = one + 's') => `${count(n)} ${n === 1 ? one : many}`

/** The letters that variants go by. */
export const letters = 'ABCDEFGHIJ'

/** A share of one as percent, to one place. */
export const percent = (share: number) => (share * 100).toFixed(1) + ' %'

/** Bounds as percent: 5.9 to 8.3 %. */
export const between = ([low, high]: readonly [number, number]) => `${(low * 100).toFixed(1)} to ${percent(high)}`

/** A difference in percentage points, signed. */
export const points = (difference: number) => (difference < 0 ? '− ' : '+ ') + Math.abs(difference * 100).toFixed(1)

/** An amount of a currency (ISO 4217), in whole units or to some places, with a sign where asked; a plain number where no currency is known. */
export function money(amount: number, currency: string, places = 0, signed = false) {
  const style = currency ? ({ style: 'currency', currency } as const) : {}
  try {
    return new Intl.NumberFormat('en-GB', {
      ...style,
      minimumFractionDigits: places,
      maximumFractionDigits: places,
      signDisplay: signed ? 'exceptZero' : 'auto',
    }).format(amount)
  } catch {
    return amount.toFixed(places) // a code that is none
  }
}

/** By what visitors are told apart. */
export const cuts = [
  ['device', 'Device'],
  ['channel', 'Source'],
  ['known', 'New or returning'],
  ['page', 'Page'],
  ['country', 'Country'],
] as const

const channels: Record<string, string> = {
  direct: 'Direct',
  search: 'Search',
  social: 'Social',
  email: 'Email',
  ads: 'Ads',
  referral: 'Other sites',
  internal: 'This site',
}

/** One part of the visitors: Phone, Search, Ireland. */
export function cutName(by: string, value: string) {
  if (by === 'channel') return channels[value] ?? value
  if (by === 'country') {
    try {
      return new Intl.DisplayNames('en', { type: 'region' }).of(value) ?? value
    } catch {
      return value
    }
  }
  return by === 'page' ? value : value.charAt(0).toUpperCase() + value.slice(1)
}

/** A rate in a sentence, or why there is none. */
export const rateOf = (m: Measure) => (m.rate === null ? 'no visitors yet' : percent(m.rate))

/** Seconds as a clock has them: 1:05. */
export const clock = (seconds: number) => `${Math.floor(seconds / 60)}:${String(Math.round(seconds) % 60).padStart(2, '0')}`

/** A share in tens: 4 in 10. */
export const outOfTen = (share: number) => (share < 0.005 ? 'nobody' : share < 0.05 ? 'fewer than 1 in 20' : `${Math.max(1, Math.round(share * 10))} in 10`)
