import { elementAt } from '../parts/keys/dragging'

/** Where a dragged line would land: between two others, or on one, to make a group with it. */
export type Landing = { gap: string; group: string; i: number } | { onto: string }

/** Where what is dragged would land at a point of the window. */
export function landingAt(x: number, y: number, dragged: string): Landing | null {
  const gap = elementAt(x, y, '[data-gap]')?.dataset.gap
  if (gap !== undefined) {
    const [group, i] = gap.split('#')
    return { gap, group, i: Number(i) }
  }
  const onto = elementAt(x, y, '[data-line]')?.dataset.line
  return onto === undefined || onto === dragged ? null : { onto }
}
