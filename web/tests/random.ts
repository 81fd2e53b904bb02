import type { Rule } from '../kinds/reach'

export type Random = (n: number) => number

/** Whole numbers below n, the same ones for the same seed. */
export function random(seed: number): Random {
  let state = seed
  return (n: number) => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0
    return Math.floor((state / 2 ** 32) * n)
  }
}

/** A random rule over moments, from some clauses. */
export function randomRule(r: Random, depth: number, clauses: ((r: Random) => Rule)[]): Rule {
  if (depth === 0 || r(3) === 0) return clauses[r(clauses.length)](r)
  const parts = Array.from({ length: r(4) }, () => randomRule(r, depth - 1, clauses))
  return [{ all: parts }, { any: parts }, { not: randomRule(r, depth - 1, clauses) }][r(3)] as Rule
}
