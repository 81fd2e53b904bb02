import { useState } from 'react'
import type { SavedReach } from '../../kinds/studio'
import { Dragging } from '../parts/keys/dragging'
import { useBuilder } from './builder'
import { type Landing, landingAt } from './landing'
import { RuleGroup } from './RuleGroup'
import { joinAt, moveAt, rooted } from './rules'
import { ChangeReach, ChangingContext } from './SavedReaches'

/** The whole rule as a sentence, whose lines can be dragged. */
export function RuleBuilder() {
  const b = useBuilder()
  const [changing, setChanging] = useState<SavedReach | null>(null)
  return (
    <ChangingContext value={setChanging}>
      <Dragging landingAt={landingAt} onDrop={(at, to: Landing) => b.change('onto' in to ? joinAt(b.rule, at, to.onto) : moveAt(b.rule, at, to.group, to.i))}>
        <RuleGroup group={rooted(b.rule)} at="" so={b.total} />
      </Dragging>
      {changing && (
        <ChangeReach saved={changing} onClose={() => setChanging(null)}>
          <RuleBuilder />
        </ChangeReach>
      )}
    </ChangingContext>
  )
}
