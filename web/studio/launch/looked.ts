import type { Block, Button, Field, Piece } from '../../kinds/piece'
import { answers, flat } from '../design/tree'
import { counted, letters } from '../parts/words/say'
import { sitsAs } from '../piece/drawing'
import type { Rule } from '../rule/kinds'
import { isClause, isGroup, partsOf, pathOf } from '../rule/rules'

// What a launch depends on outside the piece, and what was looked at in it.

/** Something that has to be on a page of the site. */
export interface OnPage {
  what: 'click' | 'seen' | 'place'
  selector: string
}

const clausesOf = (rule: Rule): { fact: string; value?: unknown }[] =>
  isGroup(rule) ? partsOf(rule).flatMap(clausesOf) : 'not' in rule ? clausesOf(rule.not) : isClause(rule) ? [rule] : []

/** The elements of pages that a piece waits for, or stands at. */
export function elementsOf(doc: Piece): OnPage[] {
  const rules = [doc.rule, ...doc.split.variants.flatMap(v => v.moments ?? [])] as Rule[]
  const waited = rules.flatMap(clausesOf).flatMap(c => {
    const what = ({ 'moment.click': 'click', 'moment.seen': 'seen' } as const)[c.fact]
    return what && typeof c.value === 'string' && c.value ? [{ what, selector: c.value }] : []
  })
  const places = doc.format === 'inline' ? doc.split.variants.flatMap(v => v.design.frame.anchor?.selector || []) : []
  return [...waited, ...places.map(selector => ({ what: 'place' as const, selector }))].filter(
    (e, i, all) => all.findIndex(x => x.what === e.what && x.selector === e.selector) === i,
  )
}

const blocksOf = (doc: Piece): Block[] => doc.split.variants.flatMap(v => v.design.scenes.flatMap(s => flat(s.blocks)))

/** The pages of the site that buttons and pictures lead to. */
export function addressesOf(doc: Piece): string[] {
  const addresses = blocksOf(doc).flatMap(b => {
    if (b.kind === 'picture') return b.link ?? ''
    return b.kind === 'button' && b.press.do === 'open' ? ((b as Button).press.address ?? '') : ''
  })
  return [...new Set(addresses.filter(a => a.startsWith('/') && !a.startsWith('//') && !a.includes('{')))]
}

/** A page on which it may show: the first that its rule names. */
export const pageOf = (doc: Piece) => pathOf(doc.rule as Rule)

/** What was looked at in a piece, each in a few words, for this piece alone. */
export function lookedAt(doc: Piece): string[] {
  const { variants } = doc.split
  const blocks = blocksOf(doc)
  const fields = blocks.filter((b): b is Field => answers(b) && b.kind === 'field' && b.ask !== 'hidden')
  const scenes = variants.reduce((n, v) => n + v.design.scenes.length, 0)
  const over = variants.some(v => !['inline', 'bar', 'chat'].includes(sitsAs(doc, v.design).format))
  // What the page's own colours are is not known here.
  const readable = variants.flatMap((v, i) => ([v.design.frame.background, v.design.frame.ink].includes('@page') ? [] : letters[i]))
  const closes = variants.every(v => v.design.frame.close.shown)
  const counts = blocks.find((b): b is Button => b.kind === 'button' && b.counts)
  return [
    over && closes ? 'It can be closed with a button, and with Escape.' : '',
    readable.length ? `Its text can be read on what is behind it${variants.length > 1 ? `, in ${readable.join(', ')}` : ''}.` : '',
    readable.length < variants.length ? 'It takes the page’s own colours: whether its text can be read there is for you to see, with “See it live”.' : '',
    fields.length ? `Its form asks for ${list(fields.map(f => f.label))}, and a button sends it.` : '',
    scenes > variants.length ? `All ${counted(scenes, 'scene')} are reached.` : '',
    counts ? `“${counts.words}” counts as its conversion.` : '',
    doc.caps.per_visitor?.length || doc.caps.after_close ? 'Its frequency is limited.' : '',
    'None of its text is left from the template.',
  ].filter(Boolean)
}

const list = (all: string[]) => {
  const few = [...new Set(all.map(l => `“${l.length > 30 ? `${l.slice(0, 29)}…` : l}”`))]
  return few.length > 4 ? `${few.slice(0, 3).join(', ')} and ${few.length - 3} more` : few.join(', ')
}
