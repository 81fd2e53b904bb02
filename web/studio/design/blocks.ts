import type { Block, Choice, Design, DrawPart, Field, PrizeDraw, Scene } from '../../kinds/piece'
import { icons } from './icons'
import { answers, flat, freshID, keysOf, plain } from './tree'

// The kinds of blocks: their names, and how a new one begins.

export type Kind = Block['kind']

/** Each kind, with its name and its sign in lists. */
export const blockKinds: Record<Kind, { name: string; glyph: string }> = {
  heading: { name: 'Heading', glyph: 'H' },
  text: { name: 'Text', glyph: '¶' },
  picture: { name: 'Picture', glyph: '▥' },
  button: { name: 'Button', glyph: '▬' },
  field: { name: 'Field', glyph: '@' },
  list: { name: 'List', glyph: '≔' },
  columns: { name: 'Columns', glyph: '◫' },
  box: { name: 'Box', glyph: '□' },
  timer: { name: 'Timer', glyph: '◷' },
  code: { name: 'Code', glyph: '#' },
  video: { name: 'Video', glyph: '▷' },
  icon: { name: 'Icon', glyph: '✦' },
  divider: { name: 'Divider', glyph: '―' },
  space: { name: 'Space', glyph: '↕' },
  draw: { name: 'Prize draw', glyph: '◎' },
  progress: { name: 'Progress', glyph: '◔' },
  value: { name: 'Value', glyph: '∑' },
  tally: { name: 'Poll result', glyph: '▤' },
  links: { name: 'Links', glyph: '☍' },
  html: { name: 'HTML', glyph: '‹›' },
}

/** What is offered to be added: a kind, or a field of some sort. */
export interface Offer {
  name: string
  kind: Kind
  ask?: Field['ask']
  quiet?: boolean
  look?: PrizeDraw['look']
}

export const offers: Offer[] = [
  { name: 'Heading', kind: 'heading' },
  { name: 'Text', kind: 'text' },
  { name: 'Picture', kind: 'picture' },
  { name: 'Button', kind: 'button' },
  { name: 'Field', kind: 'field' },
  { name: 'Choices', kind: 'field', ask: 'choice' },
  { name: 'Timer', kind: 'timer' },
  { name: 'Code', kind: 'code' },
  { name: 'Columns', kind: 'columns' },
]

export const more: Offer[] = [
  { name: 'List', kind: 'list' },
  { name: 'Link', kind: 'button', quiet: true },
  { name: 'Box', kind: 'box' },
  { name: 'Icon', kind: 'icon' },
  { name: 'Video', kind: 'video' },
  { name: 'Divider', kind: 'divider' },
  { name: 'Space', kind: 'space' },
  { name: 'Consent', kind: 'field', ask: 'consent' },
  { name: 'Phone number', kind: 'field', ask: 'phone' },
  { name: 'Number', kind: 'field', ask: 'number' },
  { name: 'Date', kind: 'field', ask: 'date' },
  { name: 'Multiple choice', kind: 'field', ask: 'choices' },
  { name: 'Dropdown', kind: 'field', ask: 'dropdown' },
  { name: 'Long text', kind: 'field', ask: 'long' },
  { name: 'Stars', kind: 'field', ask: 'stars' },
  { name: '0 to 10', kind: 'field', ask: 'scale' },
  { name: 'Slider', kind: 'field', ask: 'slider' },
  { name: 'Ranking', kind: 'field', ask: 'order' },
  { name: 'Calculated value', kind: 'value' },
  { name: 'Poll result', kind: 'tally' },
  { name: 'Hidden field', kind: 'field', ask: 'hidden' },
  { name: 'Progress', kind: 'progress' },
  { name: 'Wheel', kind: 'draw', look: 'wheel' },
  { name: 'Scratch card', kind: 'draw', look: 'card' },
  { name: 'Boxes', kind: 'draw', look: 'boxes' },
  { name: 'Links', kind: 'links' },
  { name: 'HTML', kind: 'html' },
]

export const asks: Record<Exclude<Field['ask'], 'drawn'>, string> = {
  email: 'Email',
  name: 'First name',
  text: 'Short text',
  long: 'Long text',
  phone: 'Phone number',
  number: 'Number',
  date: 'Date',
  choice: 'Single choice',
  choices: 'Multiple choice',
  dropdown: 'Dropdown',
  consent: 'Consent',
  stars: 'Stars, 1 to 5',
  scale: 'Scale, 0 to 10',
  slider: 'Slider',
  order: 'Ranking',
  hidden: 'Hidden',
}

const labels: Partial<Record<Field['ask'], string>> = {
  email: 'Email',
  name: 'First name',
  phone: 'Telephone',
  number: 'How many?',
  date: 'When?',
  choice: 'Which one?',
  choices: 'Which ones?',
  dropdown: 'Which one?',
  long: 'Tell us more',
  consent: 'Yes, you may write to me. I can take this back at any time.',
  stars: 'How was it?',
  scale: 'How likely are you to come back?',
  slider: 'How much?',
  order: 'In which order?',
  hidden: 'Campaign',
}
const keyed: Partial<Record<Field['ask'], string>> = {
  text: 'answer',
  long: 'message',
  choice: 'choice',
  choices: 'choices',
  dropdown: 'choice',
  scale: 'rating',
  slider: 'amount',
}

/** The field name of a new field, which no other has. */
export function keyFor(ask: Field['ask'], keys: string[]): string {
  const key = keyed[ask] ?? ask
  return keys.includes(key) ? freshID(key, keys) : key
}

/** Choices with these labels, keeping those that are there already. */
export function choicesOf(labels: string[], before: readonly Choice[] = []): Choice[] {
  const ids: string[] = before.map(c => c.id)
  const left = [...before]
  return labels.map((label, i) => {
    const same = left.findIndex(c => c.label === label)
    // A label that was changed where it stands is the same choice in other words.
    const kept = same >= 0 ? left.splice(same, 1)[0] : labels.length === before.length && !labels.includes(before[i].label) ? before[i] : undefined
    if (kept) return { ...kept, label }
    const id = choiceID(label, ids)
    ids.push(id)
    return { id, label }
  })
}

/** The id of a choice, as core/piece makes it of a label. */
function choiceID(label: string, taken: string[]): string {
  let id = label
    .toLowerCase()
    .split(/[^a-z0-9]+/)
    .filter(Boolean)
    .join('_')
  if (!/^[a-z]/.test(id)) id = ('c_' + id).replace(/_$/, '')
  id = id.slice(0, 32).replace(/_$/, '')
  return taken.includes(id) ? freshID(id + '_', [id + '_1', ...taken]) : id
}

/** Whether a field has choices. */
export const chooses = (ask: Field['ask']) => /^(choices?|dropdown|order)$/.test(ask)

/** What a field of a type begins with, besides its label. */
export function askedOf(ask: Field['ask']): Partial<Field> {
  if (chooses(ask)) return { choices: choicesOf(['This', 'That', 'Something else']) }
  if (ask === 'slider') return { least: '0', most: '20' }
  return ask === 'hidden' ? { from: 'query.utm_campaign' } : {}
}

/** A field as it begins. */
export function newField(id: string, ask: Field['ask'], keys: string[]): Field {
  return {
    kind: 'field',
    id,
    ask,
    key: keyFor(ask, keys),
    label: labels[ask] ?? 'Your answer',
    required: ask === 'email' || ask === 'consent',
    ...askedOf(ask),
  }
}

/** A new block with an id that its scene does not have yet. */
export const freshBlock = (offer: Offer, scene: Scene, design: Pick<Design, 'scenes' | 'formulas'>): Block =>
  newBlock(
    offer,
    freshID(
      offer.kind,
      flat(scene.blocks).map(b => b.id),
    ),
    scene,
    design,
  )

function newBlock({ kind, ask, quiet, look }: Offer, id: string, scene: Scene, design: Pick<Design, 'scenes' | 'formulas'>): Block {
  const all = flat(scene.blocks)
  const keys = keysOf(design.scenes)
  switch (kind) {
    case 'heading':
      return { kind, id, text: 'A heading', size: 26, align: 'start' }
    case 'text':
      return { kind, id, text: 'A line or two.', size: 16, align: 'start' }
    case 'list':
      return { kind, id, items: ['First', 'Second', 'Third'], marker: 'tick', size: 16 }
    case 'picture':
      return { kind, id, picture: '', ratio: 50, alt: '', width: 100, corners: 6, align: 'center' }
    case 'video':
      return { kind, id, title: '', ratio: 56, corners: 6 }
    case 'icon':
      return { kind, id, name: 'star', path: icons.star, size: 40, align: 'start', color: '@accent' }
    case 'divider':
      return { kind, id, thick: 1, width: 100 }
    case 'space':
      return { kind, id, height: 24 }
    case 'box':
      return {
        kind,
        id,
        background: '@soft',
        padding: 18,
        corners: 10,
        gap: 10,
        blocks: [{ kind: 'text', id: id + '-text', text: 'In a box.', size: 16, align: 'start' }],
      }
    case 'columns':
      return {
        kind,
        id,
        gap: 20,
        blocks: [
          { kind: 'text', id: id + '-one', text: 'On one side.', size: 16, align: 'start' },
          { kind: 'text', id: id + '-two', text: 'On the other.', size: 16, align: 'start' },
        ],
      }
    case 'field':
      return newField(id, ask ?? (!keys.includes('email') ? 'email' : !keys.includes('name') ? 'name' : 'text'), keys)
    case 'button': {
      if (quiet) return { kind, id, words: 'Read more', press: { do: 'open', address: '/' }, counts: false, quiet: true }
      const sends = all.some(b => b.kind === 'field') && !all.some(b => b.kind === 'button' && b.press.do === 'send')
      return { kind, id, words: sends ? 'Send it to me' : 'Carry on', press: { do: sends ? 'send' : 'close' }, counts: sends, quiet: false }
    }
    case 'timer':
      return { kind, id, minutes: 15, at_zero: 'stay', boxed: true, size: 30, align: 'start' }
    case 'code':
      // Where something is drawn, its prize's.
      return drawsOf(design).length
        ? { kind, id, draw: drawsOf(design)[0].key, words: 'Copy', copied: 'Copied', size: 20 }
        : { kind, id, code: 'WELCOME10', words: 'Copy', copied: 'Copied', size: 20 }
    case 'draw':
      return newDraw(id, look ?? 'wheel', keys)
    case 'progress':
      return { kind, id, look: 'bar' }
    case 'value':
      return { kind, id, formula: design.formulas?.[0]?.name ?? '', size: 44, align: 'start' }
    case 'tally':
      return { kind, id, key: polled(design)[0]?.key ?? '' }
    case 'links':
      return {
        kind,
        id,
        items: [{ name: 'talk', path: icons.talk, label: 'A messenger', address: 'https://chat.example.com' }],
        size: 28,
        align: 'start',
        color: '@accent',
      }
    case 'html':
      return { kind, id, html: '<p>Your own <b>markup</b>.</p>' }
  }
}

/** A new prize draw: four parts, one of them without a prize. */
export function newDraw(id: string, look: PrizeDraw['look'], keys: string[]): PrizeDraw {
  const words = { wheel: 'Spin', card: 'Scratch here', boxes: 'Open' }[look]
  const parts: DrawPart[] = [
    { id: 'ten', label: '10 % off', weight: 3, code: 'TEN' },
    { id: 'post', label: 'Free delivery', weight: 2, code: 'FREEPOST' },
    { id: 'gift', label: 'A small gift', weight: 1, code: 'GIFT' },
    { id: 'nothing', label: 'Not this time', weight: 4, nothing: true },
  ]
  return {
    kind: 'draw',
    id,
    key: keys.includes('prize') ? freshID('prize', keys) : 'prize',
    label: 'Prize',
    look,
    parts,
    words,
    odds: true,
    size: look === 'wheel' ? 320 : 300,
  }
}

/** The prize draws of a piece. */
export const drawsOf = (design: Pick<Design, 'scenes'>): PrizeDraw[] => design.scenes.flatMap(s => flat(s.blocks).filter(b => b.kind === 'draw'))

/** What of a piece is answered, each as a field: a draw's parts are its choices. */
export const answered = (design: Pick<Design, 'scenes'>): Field[] =>
  design.scenes.flatMap(s =>
    flat(s.blocks)
      .filter(answers)
      .map(b => (b.kind === 'field' ? b : { kind: 'field', id: b.id, ask: 'drawn', key: b.key, label: b.label, required: false, choices: b.parts })),
  )

/** The fields of a piece whose answers can be counted for everyone to see. */
export const polled = (design: Pick<Design, 'scenes'>): Field[] =>
  design.scenes.flatMap(s => flat(s.blocks).filter((b): b is Field => b.kind === 'field' && chooses(b.ask) && b.ask !== 'order'))

/** The name of a block in lists. */
export function nameOf(block: Block): string {
  switch (block.kind) {
    case 'heading':
    case 'text':
      return plain(block.text).trim() || (block.kind === 'heading' ? 'Empty heading' : 'Empty text')
    case 'list':
      return plain(block.items[0] ?? '') || 'List'
    case 'picture':
      return block.alt || 'Picture'
    case 'video':
      return block.title || 'Video'
    case 'field':
      return block.label
    case 'button':
      return block.words
    case 'code':
      return block.code || (block.draw ? 'Code of the prize' : 'Code of a pool')
    case 'draw':
      return { wheel: 'Wheel', card: 'Scratch card', boxes: 'Boxes' }[block.look]
    default:
      return blockKinds[block.kind].name
  }
}
