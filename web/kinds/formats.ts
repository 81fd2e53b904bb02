// Written by make kinds from the formats' declarations in core/piece.

import type { Format } from './piece'

/** Where a piece of a format may stand, the usual place first. */
export const places: Record<Format, string> = {
  popup: 'center top bottom',
  fly_in: 'bottom_end bottom_start top_end top_start',
  bar: 'top bottom',
  full: 'center',
  sheet: 'end start',
  inline: 'center',
  chat: 'bottom_end bottom_start',
}

/** Formats that lie over the page and make it wait. */
export const covers = 'popup full sheet'
