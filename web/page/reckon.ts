// Computes formulas as core/formula does, from the trees that it writes.

/** A formula as core/formula writes it. */
export type Tree = number | string | Tree[]

type X = number | boolean
type Op = (...x: number[]) => X

const power = (a: number, b: number) => (a === 0 && b < 0 ? Number.NaN : a ** b)

/** Rounds as a person rounds the number as it is written: halves away from zero. */
function round(x: number, places = 0): number {
  if (places % 1 || Math.abs(places) > 15) return Number.NaN
  const shift = (n: number, by: number) => {
    const [digits, e = '0'] = String(n).split('e')
    return Number(`${digits}e${Number(e) + by}`)
  }
  return Number.isFinite(x) ? Math.sign(x) * shift(Math.round(shift(Math.abs(x), places)), -places) : x
}

const payment: Op = (rate, periods, principal) =>
  periods <= 0 || rate <= -1 ? Number.NaN : rate ? (principal * rate) / -Math.expm1(-periods * Math.log1p(rate)) : principal / periods

const ops: Record<string, Op> = {
  '+': (a, b) => a + b,
  '-': (a, b) => a - b,
  '*': (a, b) => a * b,
  '/': (a, b) => (b === 0 ? Number.NaN : a / b),
  '^': power,
  pow: power,
  neg: a => -a,
  min: Math.min,
  max: Math.max,
  abs: Math.abs,
  floor: Math.floor,
  ceil: Math.ceil,
  sqrt: Math.sqrt,
  exp: Math.exp,
  ln: a => (a > 0 ? Math.log(a) : Number.NaN),
  round,
  payment,
  '<': (a, b) => a < b,
  '<=': (a, b) => a <= b,
  '>': (a, b) => a > b,
  '>=': (a, b) => a >= b,
  '=': (a, b) => a === b,
  '!=': (a, b) => a !== b,
}

const none = new Error()

function compute(tree: Tree, of: (name: string) => number | undefined): X {
  if (typeof tree === 'number') return tree
  if (typeof tree === 'string') return sound(of(tree) ?? Number.NaN)
  const [op, a, b, c] = tree as [string, Tree, Tree, Tree]
  if (op === '?') return compute(compute(a, of) ? b : c, of)
  if (op === 'and') return compute(a, of) && compute(b, of)
  if (op === 'or') return compute(a, of) || compute(b, of)
  if (op === 'not') return !compute(a, of)
  return sound(ops[op](...(tree.slice(1) as Tree[]).map(t => compute(t, of) as number)))
}

function sound(x: X): X {
  if (typeof x === 'number' && Number.isNaN(x)) throw none
  return x
}

/** What a formula comes to; undefined where it has no value. */
export function reckon(tree: Tree, of: (name: string) => number | undefined): number | undefined {
  try {
    const x = compute(tree, of)
    return typeof x === 'number' && Number.isFinite(x) ? x : undefined
  } catch {
    return undefined
  }
}
