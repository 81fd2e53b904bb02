import { Dragging, elementAt } from '../parts/dragging'
import { useBuilder } from './builder'
import { RuleGroup } from './RuleGroup'
import { joinAt, moveAt, rooted } from './rules'

/** Where a dragged line would land: between two others, or on one, to make a group with it. */
export type Landing = { gap: string; group: string; i: number } | { onto: string }

function landingAt(x: number, y: number, dragged: string): Landing | null {
  const gap = elementAt(x, y, '[data-gap]')?.dataset.gap
  if (gap !== undefined) {
    const [group, i] = gap.split('#')
    return { gap, group, i: Number(i) }
  }
  const onto = elementAt(x, y, '[data-line]')?.dataset.line
  return onto === undefined || onto === dragged ? null : { onto }
}

/** The whole rule as a sentence, whose lines can be dragged. */
export function RuleBuilder() {
  const b = useBuilder()
  return (
    <Dragging landingAt={landingAt} onDrop={(at, to: Landing) => b.change('onto' in to ? joinAt(b.rule, at, to.onto) : moveAt(b.rule, at, to.group, to.i))}>
      <RuleGroup group={rooted(b.rule)} at="" so={b.total} />
    </Dragging>
  )
}
