import type { Block, Design } from '../../kinds/piece'
import type { Color } from '../../kinds/style'

// What can be set of each kind of block. The panel of settings is drawn from
// it, and what differs between two variants is named by it.

type Kind = Block['kind']
type Of<K extends Kind> = Extract<Block, { kind: K }>

/** What a choice may be: its value and its name; the first is the usual. */
export type Options = readonly (readonly [string, string])[]

interface Common<B> {
  /** The property: a name, or a path such as border.color. */
  k: string
  label: string
  /** Whether it is offered; undefined: always. */
  when?(b: B): boolean
}

/** Settings that are more than a value, each of which a component of its own draws. */
export type Part =
  | 'words'
  | 'contrast'
  | 'items'
  | 'picture'
  | 'focus'
  | 'video'
  | 'captions'
  | 'icon'
  | 'widths'
  | 'field'
  | 'button'
  | 'draw'
  | 'until'
  | 'ways'
  | 'code'
  | 'polled'
  | 'links'
  | 'unfilled'
  | 'numbered'
  | 'cleaned'

/** A setting. */
export type Setting<B = Block> = Common<B> &
  (
    | { as: 'number'; unit?: string; min: number; max: number; usual?: number }
    | { as: 'line'; max: number; lines?: number; hint?: string; optional?: boolean; trims?: boolean }
    | { as: 'choice'; options: Options | ((d: Design) => Options) }
    | { as: 'flag' }
    | { as: 'colour'; usual: Color | ((d: Design) => Color) }
    | { as: 'own'; part: Part }
  )

/** How text and pictures align. On right-to-left pages the sides are mirrored. */
export const sides = [
  ['start', 'Left'],
  ['center', 'Centre'],
  ['end', 'Right'],
] as const

const size = (min: number, max: number) => ({ as: 'number', k: 'size', label: 'Size', unit: 'px', min, max }) as const
const corners = (max: number) => ({ as: 'number', k: 'corners', label: 'Corners', unit: 'px', min: 0, max }) as const
const gap = (max: number) => ({ as: 'number', k: 'gap', label: 'Gap', unit: 'px', min: 0, max }) as const
const align = { as: 'choice', k: 'align', label: 'Align', options: sides } as const
const colour = (usual: Color | ((d: Design) => Color), k = 'color', label = 'Colour') => ({ as: 'colour', k, label, usual }) as const
const tall = { as: 'number', k: 'ratio', label: 'Height', unit: '% of width', min: 10, max: 400 } as const
const own = (part: Part, k: string, label: string) => ({ as: 'own', part, k, label }) as const

const ink = (d: Design) => d.frame.ink
const words = own('words', 'text', 'Text')

/** The settings of each kind, in the order in which they are shown. */
export const settingsOf: { readonly [K in Kind]: readonly Setting<Of<K>>[] } = {
  heading: [words, size(12, 120), align, colour(ink), own('contrast', 'contrast', 'Contrast')],
  text: [words, size(10, 40), align, colour(ink), own('contrast', 'contrast', 'Contrast')],
  list: [
    own('items', 'items', 'Items'),
    {
      as: 'choice',
      k: 'marker',
      label: 'Bullets',
      options: [
        ['tick', 'Ticks'],
        ['dot', 'Dots'],
        ['dash', 'Dashes'],
        ['number', 'Numbers'],
      ],
    },
    size(10, 40),
    colour(ink, 'color', 'Text colour'),
    colour(d => d.frame.accent, 'mark', 'Bullet colour'),
  ],
  picture: [
    own('picture', 'picture', 'Picture'),
    { as: 'line', k: 'alt', label: 'Alt text', max: 500, lines: 2 },
    { as: 'number', k: 'width', label: 'Width', unit: '%', min: 10, max: 100 },
    tall,
    corners(400),
    align,
    own('focus', 'focus', 'Focal point'),
    { as: 'line', k: 'link', label: 'Link', max: 2000, optional: true, hint: 'https://… or /page', trims: true },
  ],
  video: [
    own('video', 'file', 'Video'),
    { as: 'line', k: 'address', label: 'Embed URL', max: 2000, optional: true, hint: 'https://…', trims: true, when: b => !b.file },
    { as: 'line', k: 'title', label: 'Alt text', max: 500 },
    tall,
    corners(64),
    { as: 'flag', k: 'plays', label: 'Autoplay (muted)', when: b => !!b.file },
    { ...own('captions', 'captions', 'Captions'), when: b => !!b.file },
  ],
  icon: [own('icon', 'name', 'Icon'), size(12, 200), align, colour('@ink')],
  field: [own('field', 'ask', 'Field')],
  button: [own('button', 'words', 'Button')],
  draw: [own('draw', 'parts', 'Draw')],
  timer: [
    own('until', 'to', 'Ends at'),
    {
      as: 'choice',
      k: 'at_zero',
      label: 'When it ends',
      options: [
        ['stay', 'Stay at zero'],
        ['hide', 'Hide'],
        ['words', 'Show a text'],
        ['close', 'Close the piece'],
        ['next', 'Go to a scene'],
      ],
    },
    { as: 'line', k: 'words', label: 'Text', max: 200, optional: true, when: b => b.at_zero === 'words' },
    { ...own('ways', 'next', 'Next scene'), when: b => b.at_zero === 'next' },
    { as: 'flag', k: 'boxed', label: 'Boxed digits' },
    size(12, 72),
    align,
    colour(ink),
  ],
  code: [
    own('code', 'pool', 'Code type'),
    { as: 'line', k: 'code', label: 'Code', max: 100, when: b => !b.pool && !b.draw },
    { as: 'line', k: 'words', label: 'Button', max: 200 },
    { as: 'line', k: 'copied', label: 'Text when copied', max: 200 },
    { as: 'line', k: 'apply', label: 'Link to apply it', max: 2000, optional: true, hint: 'https://…?code={code}', trims: true },
    { as: 'line', k: 'apply_words', label: 'Link text', max: 200, optional: true, hint: 'Use it now', when: b => !!b.apply },
    size(12, 48),
    colour(d => d.frame.background, 'background', 'Background'),
    colour(ink),
  ],
  columns: [
    own('widths', 'widths', 'Widths'),
    gap(64),
    {
      as: 'choice',
      k: 'lined',
      label: 'Align',
      options: [
        ['', 'Top'],
        ['middle', 'Middle'],
        ['end', 'Bottom'],
      ],
    },
    { as: 'flag', k: 'keep', label: 'Keep columns on phones' },
  ],
  box: [
    { as: 'colour', k: 'background', label: 'Background', usual: '@soft' },
    own('unfilled', 'unfilled', 'Background'),
    { as: 'number', k: 'padding', label: 'Padding', unit: 'px', min: 0, max: 64 },
    corners(64),
    gap(48),
    { as: 'number', k: 'border.width', label: 'Border width', unit: 'px', min: 0, max: 12, usual: 0 },
    { as: 'colour', k: 'border.color', label: 'Border colour', usual: '@ink', when: b => !!b.border?.width },
  ],
  divider: [
    { as: 'number', k: 'thick', label: 'Thickness', unit: 'px', min: 1, max: 12 },
    { as: 'number', k: 'width', label: 'Width', unit: '%', min: 5, max: 100 },
    colour('@ink'),
  ],
  space: [{ as: 'number', k: 'height', label: 'Height', unit: 'px', min: 1, max: 400 }],
  progress: [
    {
      as: 'choice',
      k: 'look',
      label: 'Style',
      options: [
        ['bar', 'Bar'],
        ['dots', 'Dots'],
        ['bites', 'Bitten discs'],
        ['words', 'Text'],
      ],
    },
    { as: 'number', k: 'value', label: 'Value', unit: '%', min: 0, max: 100, usual: 0 },
    own('numbered', 'numbered', 'Value'),
    colour('@accent'),
  ],
  value: [
    { as: 'choice', k: 'formula', label: 'Formula', options: d => [['', 'Choose one'], ...(d.formulas ?? []).map(f => [f.name, f.name] as const)] },
    { as: 'line', k: 'label', label: 'Label', max: 200, optional: true },
    size(12, 120),
    align,
    colour('@ink'),
  ],
  tally: [
    own('polled', 'key', 'Question'),
    { as: 'flag', k: 'counts', label: 'Show counts' },
    { as: 'number', k: 'least', label: 'Votes needed', min: 0, max: 100_000, usual: 0 },
    colour('@accent', 'color', 'Bars'),
  ],
  links: [own('links', 'items', 'Links'), { as: 'flag', k: 'named', label: 'Show names' }, size(16, 64), align, colour('@ink')],
  html: [{ as: 'line', k: 'html', label: 'Markup', max: 40_000, lines: 8 }, own('cleaned', 'cleaned', 'Markup')],
}

// What the kinds with panels of their own have set, and what every block has.
const ofPanels: Partial<Record<Kind, Readonly<Record<string, string>>>> = {
  timer: { minutes: 'Ends at' },
  code: { draw: 'Code type' },
  field: {
    ask: 'Field type',
    choices: 'Choices',
    look: 'Style',
    required: 'Required',
    key: 'Field name',
    hint: 'Placeholder',
    help: 'Help text',
    width: 'Width',
    pattern: 'Pattern',
    least: 'Minimum',
    most: 'Maximum',
    message: 'Error message',
    advances: 'Continue on click',
    shuffle: 'Shuffle',
    right: 'Correct answer',
    points: 'Score',
    bare: 'Hide label',
    unit: 'Unit',
    from: 'Value from',
  },
  button: {
    press: 'On click',
    counts: 'Counts as conversion',
    quiet: 'Style',
    line: 'Style',
    fill: 'Background',
    ink: 'Text colour',
    hover: 'Hover',
    narrow: 'Width',
    corners: 'Corners',
    align: 'Align',
    size: 'Size',
    stir: 'Attention animation',
  },
  draw: {
    look: 'Style',
    parts: 'Parts',
    odds: 'Show the odds',
    even: 'Equal widths',
    boxes: 'Boxes',
    words: 'Text',
    size: 'Size',
    color: 'Colour',
    key: 'Field name',
    counts: 'Counts as conversion',
  },
}
const ofAll: Readonly<Record<string, string>> = { above: 'Space above', hide: 'Visible on', locked: 'Locked', phone: 'What differs on phones' }

/** The name of what a property of a block sets; undefined for one that no panel names. */
export const settingName = (kind: Kind, property: string): string | undefined =>
  ofAll[property] ?? ofPanels[kind]?.[property] ?? (settingsOf[kind] as readonly Setting<never>[])?.find(s => s.k.split('.')[0] === property)?.label
