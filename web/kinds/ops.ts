// Written by make kinds from core/reach.

import type { Op } from './reach'

/** How operators are said, in the order they are offered. */
export const opWords: Record<Op, string> = {
  is: 'is',
  is_not: 'is not',
  contains: 'contains',
  contains_not: 'does not contain',
  starts_with: 'starts with',
  ends_with: 'ends with',
  like: 'is like',
  matches: 'matches',
  in: 'is one of',
  not_in: 'is none of',
  present: 'is known',
  absent: 'is not known',
  eq: 'is',
  ne: 'is not',
  lt: 'is below',
  lte: 'is at most',
  gt: 'is above',
  gte: 'is at least',
  between: 'is between',
  happened: 'happens',
}

/** How the opposite is said of those that have no operator for it: a condition with “not” around. */
export const opWordsNot: Partial<Record<Op, string>> = {
  starts_with: 'does not start with',
  ends_with: 'does not end with',
  like: 'is not like',
  matches: 'does not match',
  between: 'is not between',
}
