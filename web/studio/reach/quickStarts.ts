import type { Caps } from '../../kinds/caps'
import type { Clause, Op, Rule } from '../rule/kinds'

/** What a practitioner would pick first. Each can be changed like any rule. */
export interface QuickStart {
  name: string
  why: string
  rule: Rule
  caps?: Caps
}

const is = (fact: string, op: Op, value?: unknown): Clause => (value === undefined ? { fact, op } : { fact, op, value })
const exit = is('moment.exit_intent', 'happened')
const phone = is('device.kind', 'is', 'phone')
const desktop = is('device.kind', 'is', 'desktop')

/** How often a piece is shown where nothing else is said. */
export const usualCaps = (): Caps => ({ per_visitor: [{ times: 1, per: 'visit' }], after_close: 'P7D', after_convert: 'forever' })

export const quickStarts: QuickStart[] = [
  { name: 'Everyone, after 30 seconds', why: 'Time to look around first.', rule: { all: [is('moment.seconds_on_page', 'gte', 30)] } },
  {
    name: 'Leaving on a desktop, deep in the page on a phone',
    why: 'Each at the moment its device can show.',
    rule: {
      any: [{ all: [is('device.kind', 'is_not', 'phone'), exit] }, { all: [phone, is('moment.scroll_percent', 'gte', 70)] }],
    },
  },
  {
    name: 'Readers past half an article',
    why: 'They like what they read.',
    rule: { all: [is('page.kind', 'is', 'article'), is('moment.scroll_percent', 'gte', 50)] },
  },
  {
    name: 'Back for the third time',
    why: 'Interested, and not on your list yet.',
    rule: { all: [is('visitor.visits', 'gte', 3), is('visitor.lead', 'is', false), is('moment.seconds_on_page', 'gte', 8)] },
  },
  {
    name: 'A basket worth keeping, about to leave',
    why: 'Over an amount, and about to leave.',
    rule: { all: [is('data.basket_total', 'gte', 40), { any: [exit, is('moment.idle_seconds', 'gte', 15)] }] },
    caps: { per_visitor: [{ times: 1, per: 'visit' }], after_close: 'P3D', after_convert: 'P7D' },
  },
  {
    name: 'From a newsletter link',
    why: 'They know you: greet them so.',
    rule: { all: [is('source.channel', 'is', 'email'), is('moment.seconds_on_page', 'gte', 5)] },
  },
  {
    name: 'Everyone but product pages',
    why: 'Never between a visitor and the basket.',
    rule: {
      all: [
        { not: { any: [is('page.kind', 'in', ['product', 'basket']), is('page.path', 'starts_with', '/checkout')] } },
        is('moment.seconds_on_page', 'gte', 20),
      ],
    },
  },
  {
    name: 'At a click on an element',
    why: 'For a link or button of your own page.',
    rule: { all: [is('moment.click', 'happened', '#buy')] },
    // Who clicks asks for it: however often.
    caps: { after_convert: 'forever' },
  },
  {
    name: 'Phone and past half, or desktop and leaving; not members',
    why: 'Not on product pages, once a week.',
    rule: {
      all: [
        {
          any: [{ all: [phone, is('moment.scroll_percent', 'gte', 50)] }, { all: [desktop, exit] }],
        },
        { not: is('page.kind', 'is', 'product') },
        { not: is('data.member', 'is', true) },
      ],
    },
    caps: { per_visitor: [{ times: 1, per: 'P7D' }], after_close: 'P7D', after_convert: 'forever' },
  },
]
