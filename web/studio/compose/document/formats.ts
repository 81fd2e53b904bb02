import type { Drawing, Format, Frame, Piece } from '../../../kinds/piece'

/**
 * Puts a piece into another format. The frame takes the size and behaviour that
 * are usual there; nothing of the content is lost, and what the new format does
 * not show is there again in the old one. core/refit does the same with
 * templates; tests/twins.test.ts holds both alike.
 */
export function refit(doc: Piece, to: Format, frames: Record<Format, Frame>) {
  const from = doc.format
  if (from === to) return
  const before = frames[from]
  const usual = frames[to]
  doc.format = to
  if (doc.phone_format === to || to === 'inline') delete doc.phone_format
  for (const v of doc.split.variants) {
    const f = v.design.frame as Frame
    f.width = usual.width
    f.padding = usual.padding
    delete f.place
    delete f.leave
    if (usual.enter) f.enter = usual.enter
    else delete f.enter
    f.backdrop.opacity = usual.backdrop.opacity
    if (f.corners === before.corners || usual.corners === 0) f.corners = usual.corners
    if (f.shadow === before.shadow) {
      if (usual.shadow) f.shadow = usual.shadow
      else delete f.shadow
    }
    if (f.close.shown === before.close.shown) f.close.shown = usual.close.shown
    if (to === 'bar' && !f.bar && usual.bar) f.bar = structuredClone(usual.bar)
    if (to === 'chat') {
      // It always stands behind a tab.
      if (f.tab?.words) delete f.tab.after
      else f.tab = structuredClone(usual.tab)
      f.talk ??= structuredClone(usual.talk)
    } else if (from === 'chat' && f.tab) {
      if (f.tab.words === before.tab?.words) delete f.tab
      else f.tab.after = true
    }
  }
}

/** A drawing as it would be in another format. */
export function inFormat(d: Drawing, to: Format, frames: Record<Format, Frame>): Drawing {
  const doc = { format: d.format, split: { variants: [{ design: structuredClone({ frame: d.frame, scenes: d.scenes }) }] } } as Piece
  refit(doc, to, frames)
  return { ...d, format: to, frame: doc.split.variants[0].design.frame }
}
