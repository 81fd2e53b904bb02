/** The main colours of a picture, the most common first; none where it cannot be read. */
export async function colorsIn(file: Blob): Promise<string[]> {
  let bitmap: ImageBitmap
  try {
    bitmap = await createImageBitmap(file, { resizeWidth: 96, resizeHeight: 96, resizeQuality: 'medium' })
  } catch {
    return []
  }
  const canvas = Object.assign(document.createElement('canvas'), { width: 96, height: 96 })
  const c = canvas.getContext('2d', { willReadFrequently: true })
  if (!c) return []
  c.drawImage(bitmap, 0, 0)
  const { data } = c.getImageData(0, 0, 96, 96)
  return mainColors(data)
}

/** The main colours among pixels (RGBA): those much alike count as one. */
export function mainColors(data: Uint8ClampedArray): string[] {
  const bins = new Map<number, [number, number, number, number]>()
  for (let i = 0; i < data.length; i += 4) {
    if (data[i + 3] < 128) continue
    const key = ((data[i] >> 4) << 8) | ((data[i + 1] >> 4) << 4) | (data[i + 2] >> 4)
    const bin = bins.get(key) ?? [0, 0, 0, 0]
    bin[0] += data[i]
    bin[1] += data[i + 1]
    bin[2] += data[i + 2]
    bin[3]++
    bins.set(key, bin)
  }
  const means = [...bins.values()].sort((a, b) => b[3] - a[3]).map(([r, g, b, n]) => [r / n, g / n, b / n])
  const kept: number[][] = []
  for (const m of means) if (kept.length < 8 && kept.every(k => Math.hypot(k[0] - m[0], k[1] - m[1], k[2] - m[2]) > 44)) kept.push(m)
  return kept.map(k => '#' + k.map(v => Math.round(v).toString(16).padStart(2, '0')).join(''))
}
