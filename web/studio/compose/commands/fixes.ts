import type { Block, Piece } from '../../../kinds/piece'
import type { Note } from '../../../kinds/settle'
import type { Me } from '../../../kinds/studio'
import type { Kit } from '../../../kinds/style'
import { paint } from '../../../page/paint'
import { freshBlock } from '../../design/blocks'
import { refitPhones } from '../../design/formats'
import { buttonsOf, giveThanks, leadTo } from '../../design/graph'
import { flat, freshID, moveTo } from '../../design/tree'
import { contrast } from '../../parts/forms/contrast'
import { readable } from '../../piece/checks/ground'
import { change, useDraft } from '../../piece/draft'
import { client } from '../../server/queries'
import { deleteScene } from './scenes'
import { select } from './view'

/** What one click does about a check; undefined where a person has to decide. */
export function fixOf(n: Note): { name: string; run(): void } | undefined {
  const m = /^split\.variants\[(\d+)\]\.design(?:\.scenes\[(\d+)\])?(.*)$/.exec(n.at)
  const within = (how: (doc: Piece, v: number, s: number) => void) => () => change(doc => how(doc as Piece, Number(m?.[1] ?? 0), Number(m?.[2] ?? 0)))
  const blockAt = (doc: Piece): Block | undefined => {
    if (!m?.[2]) return
    let at: { blocks?: Block[] } | undefined = doc.split.variants[Number(m[1])]?.design.scenes[Number(m[2])]
    for (const step of m[3].matchAll(/blocks\[(\d+)\]/g)) at = at?.blocks?.[Number(step[1])] as { blocks?: Block[] } | undefined
    return at && 'kind' in at ? (at as Block) : undefined
  }
  const kit = client.getQueryData<Me>(['me'])?.sites.find(s => s.id === useDraft.getState().site)?.kit
  switch (n.code) {
    case 'no_cap':
      return {
        name: 'Once a visit, and wait a week after a close',
        run: () =>
          change(d => {
            d.caps = { ...d.caps, per_visitor: [{ times: 1, per: 'visit' }], after_close: 'P7D' }
          }),
      }
    case 'no_rest_after_close':
      return { name: 'Wait a week after a close', run: () => change(d => void (d.caps.after_close = 'P7D')) }
    case 'no_close':
      return { name: 'Show the close button', run: within((d, v) => void (d.split.variants[v].design.frame.close.shown = true)) }
    case 'no_thanks':
      return {
        name: 'Add a thank-you scene',
        run: within((d, v) => void giveThanks(d.split.variants[v].design.scenes)),
      }
    case 'no_send':
      return {
        name: 'Add a submit button',
        run: within((d, v, s) => {
          const scene = d.split.variants[v].design.scenes[s]
          scene.blocks.push(freshBlock({ name: '', kind: 'button' }, scene, d.split.variants[v].design))
        }),
      }
    case 'no_consent':
      return {
        name: 'Add a consent',
        run: within((d, v, s) => {
          const scene = d.split.variants[v].design.scenes[s]
          const at = scene.blocks.findIndex(b => b.kind === 'button')
          scene.blocks.splice(at < 0 ? scene.blocks.length : at, 0, freshBlock({ name: '', kind: 'field', ask: 'consent' }, scene, d.split.variants[v].design))
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
        name: 'Move it after the fields',
        run: within((d, v, s) => {
          const scene = d.split.variants[v].design.scenes[s]
          const button = blockAt(d)
          const last = scene.blocks.findLastIndex(top => flat([top]).some(b => b.kind === 'field' && b.ask !== 'hidden'))
          if (button) moveTo(scene, [button.id], { holder: '', index: last + 1 })
        }),
      }
    case 'dull_button':
      return { name: 'Change to “Send it to me”', run: within(d => void ((blockAt(d) as { words: string }).words = 'Send it to me')) }
    case 'unreached_scene':
    case 'empty_scene': {
      const id = m?.[2] && useDraft.getState().doc?.split.variants[Number(m[1])]?.design.scenes[Number(m[2])]?.id
      return id ? { name: 'Delete the scene', run: () => deleteScene(id) } : undefined
    }
    case 'dead_end':
      return {
        name: 'Add a button',
        run: within((d, v, s) => {
          const scene = d.split.variants[v].design.scenes[s]
          const last = s === d.split.variants[v].design.scenes.length - 1
          const id = freshID(
            'button',
            flat(scene.blocks).map(b => b.id),
          )
          scene.blocks.push({ kind: 'button', id, words: 'Carry on', press: { do: last ? 'close' : 'next' }, counts: false, quiet: false })
          if (!last) leadTo(scene, id, d.split.variants[v].design.scenes[s + 1].id)
        }),
      }
    case 'low_contrast':
      return kit && { name: 'Use a readable colour', run: within((d, v) => readWell(d, v, blockAt(d), n.at, kit)) }
    case 'no_alt': {
      const id = blockAt(useDraft.getState().doc as Piece)?.id
      return id
        ? {
            name: 'Add alt text',
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
      return has ? { name: 'Hide the picture on phones', run: pictured } : undefined
    }
    case 'laptop_scroll': {
      const ratio = Number(/(\d+) %/.exec(n.mend)?.[1])
      const lowered = within(d => {
        const picture = blockAt(d)
        if (picture?.kind === 'picture') picture.ratio = ratio
      })
      return ratio ? { name: n.mend.replace(/\.$/, ''), run: lowered } : undefined
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
      return { name: 'Show a bar on phones', run: within((doc, v) => refitPhones(doc, v, 'bar')) }
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
