import { describe, expect, test } from 'vitest'
import type { Design, Field, Scene } from '../kinds/piece'
import { addAddress, addFreeQuestion, addQuestion } from '../studio/design/lines'
import { leadsTo, leadsToWinner, leadTo, leadToWinner, resultsOf } from '../studio/design/graph'

const scene = (id: string, kind: Scene['kind'], more: object = {}): Scene => ({ id, name: id, kind, blocks: [], ...more }) as unknown as Scene
const send = { kind: 'button', id: 'send', words: 'Show me', press: { do: 'send' }, counts: true, quiet: false }
const back = { kind: 'button', id: 'other', words: 'Skip', press: { do: 'next' }, counts: false, quiet: true }

describe('leading to the winning result', () => {
  const gate = () => scene('gate', 'form', { blocks: [send, back], edges: [{ to: 'thanks' }] })

  test('is one way for each result, the last for whatever else', () => {
    const s = gate()
    leadToWinner(s, 'send', ['calm', 'bright', 'bold'])
    expect(s.edges?.filter(e => e.block === 'send')).toEqual([
      { block: 'send', when: [{ of: 'weights', op: 'most', value: 'calm' }], to: 'calm' },
      { block: 'send', when: [{ of: 'weights', op: 'most', value: 'bright' }], to: 'bright' },
      { block: 'send', to: 'bold' },
    ])
    expect([leadsToWinner(s, 'send', ['calm', 'bright', 'bold']), leadsToWinner(s, 'send', ['calm', 'bright'])]).toEqual([true, false])
    // What the other button does stays.
    expect(leadsTo(s, 'other')).toBe('thanks')
  })

  test('is told from what only looks like it', () => {
    const s = gate()
    leadToWinner(s, 'send', ['calm', 'bold'])
    for (const change of [
      (x: Scene) => void (x.edges!.find(e => e.when)!.to = 'bold'),
      (x: Scene) => void x.edges!.push({ block: 'send', when: [{ of: 'score', op: 'gte', value: 3 }], to: 'calm' }),
      (x: Scene) => void leadTo(x, 'send', 'thanks'),
    ]) {
      const other = structuredClone(s)
      change(other)
      expect(leadsToWinner(other, 'send', ['calm', 'bold'])).toBe(false)
    }
    expect(resultsOf([gate(), scene('calm', 'result'), scene('thanks', 'thanks'), scene('bold', 'result')])).toEqual(['calm', 'bold'])
  })
})

describe('a conversation', () => {
  const design = (): Design =>
    ({ frame: {}, scenes: [scene('hello', 'plain', { blocks: [{ kind: 'text', id: 'say', text: 'Hello' }] }), scene('end', 'thanks')] }) as unknown as Design
  const onFrom = (s: Scene) => leadsTo(s, s.blocks.find(b => b.kind === 'button')!.id)
  const fieldIn = (s: Scene) => s.blocks.find((b): b is Field => b.kind === 'field')!

  test('asks a question with a free answer, and thanks for it', () => {
    const d = design()
    addFreeQuestion(d, 'hello')
    const s = d.scenes[0]
    expect([s.kind, fieldIn(s).ask, fieldIn(s).key, fieldIn(s).required]).toEqual(['question', 'text', 'answer', true])
    expect(d.scenes.find(x => x.id === onFrom(s))?.kind).toBe('thanks')
  })

  test('one after another, each under a name of its own, and goes on to where it went', () => {
    const d = design()
    d.scenes[0].passes = true
    d.scenes[0].edges = [{ to: 'end' }]
    addFreeQuestion(d, 'hello')
    expect([d.scenes[0].passes, onFrom(d.scenes[0])]).toEqual([undefined, 'end'])
    addFreeQuestion(d, 'hello')
    addAddress(d, 'hello')
    addQuestion(d, 'end')
    const keys = d.scenes.flatMap(s => s.blocks.flatMap(b => (b.kind === 'field' ? b.key : [])))
    expect(new Set(keys).size).toBe(keys.length)
    expect(keys).toHaveLength(4)
  })
})
