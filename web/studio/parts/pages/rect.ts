/** A rectangle, in CSS pixels. */
export interface Rect {
  left: number
  top: number
  width: number
  height: number
}
