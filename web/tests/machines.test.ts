import { readFileSync, writeFileSync } from 'node:fs'
import { expect, test } from 'vitest'
import { phases } from '../page/life'
import { follows } from '../page/shown'
import { ways } from '../page/walk'

// The machines of the page's script are drawn in docs/page-script.md from their
// source. UPDATE=1 draws them anew.

const doc = new URL('../../docs/page-script.md', import.meta.url)

const arrows = (lines: string[]) => ['```mermaid', 'stateDiagram-v2', ...lines.map(line => '  ' + line), '```'].join('\n')
const plain = (table: Record<string, string[]>) => arrows(Object.entries(table).flatMap(([from, to]) => to.map(one => `${from} --> ${one}`)))

const machines: Record<string, string> = {
  phases: plain(phases),
  follows: plain(follows),
  ways: arrows(
    Object.entries(ways).flatMap(([from, by]) => {
      const reasons = new Map<string, string[]>()
      for (const [event, to] of Object.entries(by)) for (const one of to) if (one !== from) reasons.set(one, [...(reasons.get(one) ?? []), event])
      return [...reasons].map(([to, events]) => `${from} --> ${to}: ${events.join(', ')}`)
    }),
  ),
}

test('the docs draw the machines of today', () => {
  const text = readFileSync(doc, 'utf8')
  const drawn = text.replace(/<!-- machine: (\w+) -->\n[\s\S]*?\n<!-- end -->/g, (_, name) => `<!-- machine: ${name} -->\n${machines[name]}\n<!-- end -->`)
  if (process.env.UPDATE) writeFileSync(doc, drawn)
  else expect(text).toBe(drawn)
  for (const name of Object.keys(machines)) expect(drawn).toContain(`<!-- machine: ${name} -->`)
})

test('every state of a machine can be come to, and leads on or is an end', () => {
  for (const [table, first, ends] of [
    [phases, ['prerendered'], ['over']],
    [follows, ['waiting'], ['gone', 'passed', 'held']],
    [Object.fromEntries(Object.entries(ways).map(([from, by]) => [from, Object.values(by).flat()])), ['asking'], []],
  ] as [Record<string, string[]>, string[], string[]][]) {
    const seen = new Set(first)
    for (const from of seen) for (const to of table[from]) seen.add(to)
    expect([...seen].sort()).toEqual(Object.keys(table).sort())
    expect(Object.keys(table).filter(s => !table[s].length).sort()).toEqual([...ends].sort())
  }
})
