/** Contrast ratio of two #rrggbb colours (WCAG 2.2). */
export function contrast(a: string, b: string): number {
  const luminance = (c: string) => {
    const [r, g, bl] = [1, 3, 5].map(i => {
      const s = Number.parseInt(c.slice(i, i + 2), 16) / 255
      return s <= 0.04045 ? s / 12.92 : ((s + 0.055) / 1.055) ** 2.4
    })
    return 0.2126 * r + 0.7152 * g + 0.0722 * bl
  }
  const [x, y] = [luminance(a), luminance(b)]
  return (Math.max(x, y) + 0.05) / (Math.min(x, y) + 0.05)
}
