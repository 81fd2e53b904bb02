import type { Drawing, Format, Frame, Piece } from '../../kinds/piece'

/**
 * Puts a piece into another format. The frame takes the size and behaviour that
 * are usual there; nothing of the content is lost, and what the new format does
 * not show is there again in the old one. core/refit does the same with
 * templates; tests/twins.test.ts holds both alike.
 */
export function refit(doc: Piece, to: Format, frames: Record<Format, Frame>) {
  const from = doc.format
  if (from === to) return
  doc.format = to
  if (doc.phone_format === to || to === 'inline') delete doc.phone_format
  for (const v of doc.split.variants) {
    // What has a format of its own keeps it, as long as one of the two does not stand in the page.
    if (v.format && (v.format === 'inline') === (to === 'inline')) continue
    refitFrame(v.design.frame as Frame, v.format ?? from, to, frames)
    delete v.format
    delete v.phone_format
  }
}

/** Gives one variant a format of its own, or with none the piece's again. */
export function refitOne(doc: Piece, i: number, to: Format | undefined, frames: Record<Format, Frame>) {
  const v = doc.split.variants[i]
  refitFrame(v.design.frame as Frame, v.format ?? doc.format, to ?? doc.format, frames)
  if (!to) {
    delete v.format
    delete v.phone_format
    return
  }
  if (!v.format && doc.phone_format) v.phone_format = doc.phone_format
  v.format = to
  if (v.phone_format === to) delete v.phone_format
}

/**
 * Puts the variant that is edited into another format, and no other; the piece
 * as a whole where it has one variant, or where one of the two formats stands in
 * the page, for variants do not mix there.
 */
export function refitVariant(doc: Piece, i: number, to: Format, frames: Record<Format, Frame>) {
  const { variants } = doc.split
  if (variants.length === 1 || doc.format === 'inline' || to === 'inline') refit(doc, to, frames)
  else refitOne(doc, i, to, frames)
  settleFormats(doc)
}

/** Sets the format on phones of the variant that is edited, and of no other; empty: the same as elsewhere. */
export function refitPhones(doc: Piece, i: number, to: Format | '') {
  const { variants } = doc.split
  const v = variants[i]
  if (variants.length > 1 && !v.format) {
    v.format = doc.format
    if (doc.phone_format) v.phone_format = doc.phone_format
  }
  const of = v.format ? v : doc
  if (to) of.phone_format = to
  else delete of.phone_format
  settleFormats(doc)
}

/** Has all variants sit as one of them does. */
export function refitAsOne(doc: Piece, i: number, frames: Record<Format, Frame>) {
  const { format, phone_format } = doc.split.variants[i]
  for (const k of doc.split.variants.keys()) {
    if (format) refitOne(doc, k, format, frames)
    if (phone_format) doc.split.variants[k].phone_format = phone_format
    else delete doc.split.variants[k].phone_format
  }
  settleFormats(doc)
}

/** Where all variants sit alike, that is how the piece sits. */
function settleFormats(doc: Piece) {
  const { variants } = doc.split
  const [format, phone_format] = [variants[0].format ?? doc.format, variants[0].format ? variants[0].phone_format : doc.phone_format]
  if (variants.some(v => (v.format ?? doc.format) !== format || (v.format ? v.phone_format : doc.phone_format) !== phone_format)) return
  doc.format = format
  if (phone_format) doc.phone_format = phone_format
  else delete doc.phone_format
  for (const v of variants) {
    delete v.format
    delete v.phone_format
  }
}

function refitFrame(f: Frame, from: Format, to: Format, frames: Record<Format, Frame>) {
  if (from === to) return
  const before = frames[from]
  const usual = frames[to]
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

/** A drawing as it would be in another format. */
export function inFormat(d: Drawing, to: Format, frames: Record<Format, Frame>): Drawing {
  const doc = { format: d.format, split: { variants: [{ design: structuredClone({ frame: d.frame, scenes: d.scenes }) }] } } as Piece
  refit(doc, to, frames)
  return { ...d, format: to, frame: doc.split.variants[0].design.frame }
}
