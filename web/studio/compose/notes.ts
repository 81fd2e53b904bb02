import { useEffect, useState } from 'react'
import { create } from 'zustand'
import type { Block, Drawing, Frame, Kit, Piece } from '../../kinds/piece'
import type { Note } from '../../kinds/settle'
import type { Me } from '../../kinds/studio'
import { families, paint, usualKit } from '../../page/paint'
import { draw, erase } from '../../page/renderer'
import { change, useDraft } from '../bench/draft'
import { contrast } from '../parts/fields'
import { client, useSite } from '../queries'
import { useNotes } from '../reach/useDraftRehearsal'
import { newBlock } from './blocks'
import { buttonsOf, takeOutScene } from './scenes'
import { flat, freshID, moveTo, placeOf, plain } from './tree'
import { drawingOf, now, select, useView } from './view'

// What there is to settle, as the server says and as can only be seen where the
// design is drawn: what is really behind words, and what fits on a phone.

const useSeen = create<{ notes: Note[] }>(() => ({ notes: [] }))

/** Every note on the draft. */
export function useAllNotes(): Note[] {
  const told = useNotes()
  const seen = useSeen(s => s.notes)
  return [...told, ...seen]
}

const waits = 700 // ms after the last change

/** Looks the design in view over, a while after it was changed. */
export function useLooking() {
  const doc = useDraft(s => s.doc)
  const variant = useView(s => s.variant)
  const { kit } = useSite()
  const [, turn] = useState(0)
  useEffect(() => {
    if (!doc) return
    let over = false
    const timer = setTimeout(async () => {
      const { design, at } = now()
      const notes = [...phoneNotes(drawingOf(doc, design, kit), at), ...(await groundNotes(design.frame, kit, at))]
      if (!over) useSeen.setState({ notes })
      turn(n => n + 1)
    }, waits)
    return () => {
      over = true
      clearTimeout(timer)
    }
  }, [doc, variant, kit])
  useEffect(() => () => useSeen.setState({ notes: [] }), [])
}

const phone = { width: 360, height: 640 }

/** What does not fit on a small phone. */
function phoneNotes(drawing: Drawing, at: string): Note[] {
  const notes: Note[] = []
  const box = document.createElement('div')
  box.inert = true
  box.style.cssText = `position:fixed;left:-4000px;top:0;width:${phone.width}px;height:${phone.height}px;transform:translateZ(0);overflow:hidden;visibility:hidden`
  document.body.append(box)
  const pencil = document.createElement('canvas').getContext('2d')
  const kit = drawing.kit ?? usualKit
  const format = drawing.phone_format ?? drawing.format
  try {
    for (const [i, scene] of drawing.scenes.entries()) {
      const root = draw(box, drawing, scene.id, { phone: true })
      const frame = root.querySelector('[data-frame]')
      const sceneAt = `${at}.scenes[${i}]`
      if (frame && format !== 'inline' && frame.scrollHeight > frame.clientHeight + 24)
        notes.push({
          code: 'phone_scroll',
          severity: 'warn',
          at: sceneAt,
          say: `On a small phone “${scene.name}” is ${Math.round((100 * frame.scrollHeight) / phone.height)} % of the screen's height, and its end has to be scrolled to.`,
          mend: 'Hide a picture there, or say less.',
        })
      for (const b of flat(scene.blocks)) {
        if (b.kind !== 'heading' || !pencil) continue
        const element = root.querySelector<HTMLElement>(`[data-block="${CSS.escape(b.id)}"]`)
        if (!element) continue
        const css = getComputedStyle(element)
        pencil.font = `${css.fontWeight} ${css.fontSize} ${families(kit, drawing.frame)[1]}`
        const longest = plain(b.text)
          .split(/\s+/)
          .reduce((a, w) => (pencil.measureText(w).width > pencil.measureText(a).width ? w : a), '')
        if (element.clientWidth && pencil.measureText(longest).width > element.clientWidth + 2)
          notes.push({
            code: 'phone_words',
            severity: 'warn',
            at: `${sceneAt}.${placeOf(scene, b.id)}`,
            say: `“${longest.slice(0, 30)}” is wider than a small phone and breaks in the middle.`,
            mend: `Make it ${Math.max(12, Math.floor((Number.parseFloat(css.fontSize) * element.clientWidth) / pencil.measureText(longest).width))} px there.`,
          })
      }
      erase(box)
    }
  } finally {
    box.remove()
  }
  return notes
}

const readable = 4.5

/** How well a frame's words read on the picture that lies behind them, by its pixels. */
async function groundNotes(frame: Frame, kit: Kit, at: string): Promise<Note[]> {
  const { behind } = frame
  if (!behind?.picture || behind.side || frame.ink === '@page') return []
  const shades = await shadesOf(behind.picture)
  if (!shades) return []
  const ink = paint(kit, frame.ink)
  const over = paint(kit, frame.background)
  const worst = (shade: number) => Math.min(...shades.map(c => contrast(ink, mix(c, over, shade / 100))))
  const shade = behind.shade ?? 0
  const ratio = worst(shade)
  if (ratio >= readable) return []
  let enough = shade
  while (enough < 95 && worst(enough) < readable) enough += 5
  return [
    {
      code: 'ground',
      severity: 'warn',
      at: `${at}.frame.behind`,
      say: `Words over the picture are hard to read where it is ${contrast(ink, '#ffffff') > contrast(ink, '#000000') ? 'dark' : 'light'}: ${(Math.floor(ratio * 10) / 10).toFixed(1)} : 1.`,
      mend: worst(enough) >= readable ? `Cover it by ${enough} %.` : 'Stand the picture beside the words.',
    },
  ]
}

const known = new Map<string, Promise<string[] | null>>()

/** The colours of a picture, as a grid of its averages. */
function shadesOf(hash: string): Promise<string[] | null> {
  if (!known.has(hash))
    known.set(
      hash,
      new Promise(resolve => {
        const img = new Image()
        img.onerror = () => resolve(null)
        img.onload = () => {
          const side = 12
          const canvas = Object.assign(document.createElement('canvas'), { width: side, height: side })
          const c = canvas.getContext('2d', { willReadFrequently: true })
          if (!c) return resolve(null)
          c.imageSmoothingQuality = 'high'
          c.drawImage(img, 0, 0, side, side)
          const { data } = c.getImageData(0, 0, side, side)
          const out: string[] = []
          for (let i = 0; i < data.length; i += 4) out.push('#' + [0, 1, 2].map(k => data[i + k].toString(16).padStart(2, '0')).join(''))
          resolve(out)
        }
        img.src = `/v1/pictures/${hash}`
      }),
    )
  return known.get(hash)!
}

function mix(a: string, b: string, part: number): string {
  const at = (c: string, i: number) => Number.parseInt(c.slice(i, i + 2), 16)
  return (
    '#' +
    [1, 3, 5]
      .map(i =>
        Math.round(at(a, i) * (1 - part) + at(b, i) * part)
          .toString(16)
          .padStart(2, '0'),
      )
      .join('')
  )
}

/** What one press does about a note; undefined where a person has to. */
export function mendOf(n: Note): { name: string; run(): void } | undefined {
  const m = /^split\.variants\[(\d+)\]\.design(?:\.scenes\[(\d+)\])?(.*)$/.exec(n.at)
  const within = (how: (doc: Piece, v: number, s: number) => void) => () => change(doc => how(doc as Piece, Number(m?.[1] ?? 0), Number(m?.[2] ?? 0)))
  const blockAt = (doc: Piece): Block | undefined => {
    if (!m?.[2]) return
    let at: { blocks?: Block[] } | undefined = doc.split.variants[Number(m[1])]?.design.scenes[Number(m[2])]
    for (const step of m[3].matchAll(/blocks\[(\d+)\]/g)) at = at?.blocks?.[Number(step[1])] as { blocks?: Block[] } | undefined
    return at && 'kind' in at ? (at as Block) : undefined
  }
  const kit = client.getQueryData<Me>(['me'])?.sites[0]?.kit
  switch (n.code) {
    case 'no_cap':
      return {
        name: 'Once a visit, a week after a close',
        run: () =>
          change(d => {
            d.caps = { ...d.caps, per_visitor: [{ times: 1, per: 'visit' }], after_close: 'P7D' }
          }),
      }
    case 'no_rest_after_close':
      return { name: 'Let it rest for a week', run: () => change(d => void (d.caps.after_close = 'P7D')) }
    case 'no_close':
      return { name: 'Show the close mark', run: within((d, v) => void (d.split.variants[v].design.frame.close.shown = true)) }
    case 'no_thanks':
      return {
        name: 'Add a thank-you',
        run: within((d, v) => {
          const { scenes } = d.split.variants[v].design
          const id =
            scenes.find(s => s.kind === 'thanks')?.id ??
            freshID(
              'scene',
              scenes.map(s => s.id),
            )
          if (!scenes.some(s => s.id === id))
            scenes.push({
              id,
              name: 'Thank-you',
              kind: 'thanks',
              blocks: [
                { kind: 'heading', id: 'title', text: 'Thank you, {first name|friend}', size: 28, align: 'start' },
                { kind: 'button', id: 'done', words: 'Back to the page', press: { do: 'close' }, counts: false, quiet: false },
              ],
            })
          for (const s of scenes) for (const b of buttonsOf(s)) if (b.press.do === 'send' && !b.press.scene && s.id !== id) b.press.scene = id
        }),
      }
    case 'no_send':
      return {
        name: 'Add a button that sends',
        run: within((d, v, s) => {
          const scene = d.split.variants[v].design.scenes[s]
          scene.blocks.push(
            newBlock(
              { name: '', kind: 'button' },
              freshID(
                'button',
                flat(scene.blocks).map(b => b.id),
              ),
              scene,
            ),
          )
        }),
      }
    case 'no_consent':
      return {
        name: 'Add a consent',
        run: within((d, v, s) => {
          const scene = d.split.variants[v].design.scenes[s]
          const at = scene.blocks.findIndex(b => b.kind === 'button')
          scene.blocks.splice(
            at < 0 ? scene.blocks.length : at,
            0,
            newBlock(
              { name: '', kind: 'field', ask: 'consent' },
              freshID(
                'field',
                flat(scene.blocks).map(b => b.id),
              ),
              scene,
            ),
          )
        }),
      }
    case 'no_conversion':
      return {
        name: 'Count the first button',
        run: within((d, v) => {
          const all = d.split.variants[v].design.scenes.flatMap(buttonsOf)
          const b = all.find(b => b.press.do === 'send') ?? all.find(b => b.press.do !== 'close') ?? all[0]
          if (b) b.counts = true
        }),
      }
    case 'tab_order':
      return {
        name: 'Move it behind the fields',
        run: within((d, v, s) => {
          const scene = d.split.variants[v].design.scenes[s]
          const button = blockAt(d)
          const last = scene.blocks.findLastIndex(top => flat([top]).some(b => b.kind === 'field' && b.ask !== 'hidden'))
          if (button) moveTo(scene, [button.id], { holder: '', index: last + 1 })
        }),
      }
    case 'dull_button':
      return { name: 'Say “Send it to me”', run: within(d => void ((blockAt(d) as { words: string }).words = 'Send it to me')) }
    case 'unreached_scene':
    case 'empty_scene': {
      const id = m?.[2] && useDraft.getState().doc?.split.variants[Number(m[1])]?.design.scenes[Number(m[2])]?.id
      return id ? { name: 'Take the scene out', run: () => takeOutScene(id) } : undefined
    }
    case 'dead_end':
      return {
        name: 'Add a button',
        run: within((d, v, s) => {
          const scene = d.split.variants[v].design.scenes[s]
          const last = s === d.split.variants[v].design.scenes.length - 1
          scene.blocks.push({
            kind: 'button',
            id: freshID(
              'button',
              flat(scene.blocks).map(b => b.id),
            ),
            words: 'Carry on',
            press: { do: last ? 'close' : 'next' },
            counts: false,
            quiet: false,
          })
        }),
      }
    case 'low_contrast':
      return kit && { name: 'Take one that reads well', run: within((d, v) => readWell(d, v, blockAt(d), n.at, kit)) }
    case 'no_alt': {
      const id = blockAt(useDraft.getState().doc as Piece)?.id
      return id
        ? {
            name: 'Describe it now',
            run: () => {
              select(id)
              setTimeout(
                () => document.querySelector<HTMLElement>('aside[aria-label=Settings] textarea, aside[aria-label=Settings] input[type=text]')?.focus(),
                60,
              )
            },
          }
        : undefined
    }
    case 'ground': {
      const to = /(\d+) %/.exec(n.mend)?.[1]
      return {
        name: n.mend.replace(/\.$/, ''),
        run: within((d, v) => {
          const { behind } = d.split.variants[v].design.frame
          if (!behind) return
          if (to) behind.shade = Number(to)
          else behind.side = 'start'
        }),
      }
    }
    case 'phone_scroll': {
      const pictured = within((d, v, s) => {
        const { frame, scenes } = d.split.variants[v].design
        const picture = flat(scenes[s].blocks).find(b => b.kind === 'picture' && !b.hide)
        if (picture) picture.hide = 'phone'
        else if (frame.behind?.side) frame.phone = { ...frame.phone, behind: {} }
      })
      const doc = useDraft.getState().doc
      const design = doc?.split.variants[Number(m?.[1] ?? 0)]?.design
      const has =
        design &&
        (flat(design.scenes[Number(m?.[2] ?? 0)]?.blocks ?? []).some(b => b.kind === 'picture' && !b.hide) ||
          (design.frame.behind?.side && !design.frame.phone?.behind))
      return has ? { name: 'Leave the picture out there', run: pictured } : undefined
    }
    case 'phone_words':
      return {
        name: n.mend.replace(/\.$/, ''),
        run: within(d => {
          const b = blockAt(d)
          if (b?.kind === 'heading') b.phone = { ...b.phone, size: Number(/(\d+) px/.exec(n.mend)![1]) }
        }),
      }
    case 'too_early':
      return { name: 'Make it a bar on phones', run: () => change(d => void (d.phone_format = 'bar')) }
  }
}

/** Puts a colour that reads well in place of one that does not. */
function readWell(doc: Piece, v: number, b: Block | undefined, at: string, kit: Kit) {
  const { frame } = doc.split.variants[v].design
  const button = b?.kind === 'button' && !b.quiet && !b.line ? b : undefined
  const ground = paint(kit, button ? button.fill || frame.accent : holderGround(doc, v, at) || frame.background)
  const offered = [...kit.colors.map(c => '@' + c.id), '#1b1a1f', '#ffffff'].filter(c => contrast(paint(kit, c), ground) >= readable)
  const own = (['ink', 'background'] as const).map(r => '@' + r).find(c => offered.includes(c)) ?? offered[0] ?? '#1b1a1f'
  if (button) button.ink = own
  else if (b?.kind === 'button') b.ink = own
  else if (b && b.kind !== 'field' && 'color' in b) b.color = own
  else if (b && /heading|text|list|timer/.test(b.kind)) (b as { color?: string }).color = own
  else frame.ink = own
}

/** The background of the innermost box that a place is in. */
function holderGround(doc: Piece, v: number, at: string): string | undefined {
  let list: Block[] | undefined = doc.split.variants[v].design.scenes[Number(/scenes\[(\d+)\]/.exec(at)?.[1] ?? 0)]?.blocks
  let ground: string | undefined
  for (const step of at.matchAll(/blocks\[(\d+)\]/g)) {
    const b: Block | undefined = list?.[Number(step[1])]
    if (b?.kind === 'box' && b.background) ground = b.background
    list = b && 'blocks' in b ? b.blocks : undefined
  }
  return ground
}
