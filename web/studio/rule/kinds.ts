export type { Clause, Fact, Op, Rule, Step, Verdict } from '../../kinds/reach'
export type { OpsByKind } from '../../kinds/studio'
