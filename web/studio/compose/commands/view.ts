import { createContext, useContext } from 'react'
import { create } from 'zustand'
import type { Piece } from '../../../kinds/piece'
import { phoneWidth } from '../../../page/paint'
import { docHere, draftHere, inDraft, useDraft } from '../../piece/draft'

// What is in view while composing: the variant, the scene, the width, what is
// selected. None of it is part of the piece.

export type Device = 'desktop' | 'tablet' | 'phone' | 'any'

interface View {
  variant: number
  scene: string
  /** A block's id, or frame, or close. */
  selected: string
  /** Blocks selected beside it. */
  also: string[]
  device: Device
  /** The width of the page, in CSS pixels. */
  width: number
  editing: boolean
}

export const widths: Record<Exclude<Device, 'any'>, number> = { desktop: 1100, tablet: 768, phone: 390 }

export const useView = create<View>(() => ({ variant: 0, scene: '', selected: 'frame', also: [], device: 'desktop', width: widths.desktop, editing: false }))

/** Where the menu of what is selected is open in the window; null: it is closed. */
export const useMenu = create<{ at: { x: number; y: number } | null }>(() => ({ at: null }))

export const openMenu = (x: number, y: number) => useMenu.setState({ at: { x, y } })

export const shutMenu = () => useMenu.setState({ at: null })

export function select(selected: string, also: string[] = []) {
  if (!meant || meant === useView.getState()) useView.setState({ selected, also })
}

/** Adds a block to what is selected, or takes it out of that. */
export function selectToo(id: string) {
  const { selected, also } = useView.getState()
  if (selected === 'frame' || selected === 'close') return select(id)
  const all = [selected, ...also]
  const next = all.includes(id) ? all.filter(x => x !== id) : [...all, id]
  select(next[0] ?? 'frame', next.slice(1))
}

export const onPhone = (view: Pick<View, 'width'>) => view.width <= phoneWidth

export function setDevice(device: Device, width = device === 'any' ? useView.getState().width : widths[device]) {
  useView.setState({ device, width: Math.max(280, Math.min(1920, Math.round(width))) })
}

/** The variant, design and scene in view, with their places in the document. */
export function useScene() {
  const doc = useDraft(s => s.doc)!
  const view = useView()
  return { ...look(doc, view), view, doc, phone: onPhone(view) }
}

/** What useScene gives. */
export type Scened = ReturnType<typeof useScene>

export const SeenContext = createContext<Scened | null>(null)

/** The scene as the settings around have it: while words are typed, a moment behind. */
export const useSeen = () => useContext(SeenContext)!

function look(doc: Piece, view: View) {
  const v = Math.min(view.variant, doc.split.variants.length - 1)
  const design = doc.split.variants[v].design
  const s = Math.max(
    0,
    design.scenes.findIndex(scene => scene.id === view.scene),
  )
  const at = `split.variants[${v}].design`
  return { v, s, design, scene: design.scenes[s], at, sceneAt: `${at}.scenes[${s}]` }
}

// Where commands act while they are run for a place that may be out of view.
let meant: View | null = null

export const now = () => {
  const view = meant ?? useView.getState()
  const doc = docHere()
  return { ...look(doc, view), view, doc, phone: onPhone(view) }
}

/**
 * Remembers the piece, the variant and the scene in view. What it gives runs
 * commands there, whatever is in view by then, and says whether there is still
 * such a place.
 */
export function fromHere(): (run: () => void) => boolean {
  const draft = draftHere()
  const { doc, v, scene, view } = now()
  const variant = doc.split.variants[v].id
  return run => {
    const at = draft.state.doc?.split.variants.findIndex(x => x.id === variant) ?? -1
    if (!draft.state.doc?.split.variants[at]?.design.scenes.some(s => s.id === scene.id)) return false
    const seen = useView.getState()
    const inView = useDraft.getState().id === draft.state.id && now().v === at && now().scene.id === scene.id
    meant = inView ? seen : { ...view, variant: at, scene: scene.id }
    try {
      inDraft(draft, run)
    } finally {
      meant = null
    }
    return true
  }
}
