import type { Format } from '../../kinds/piece'
import { ink, paper, plum } from '../parts/look/theme'

const boxes: Record<Format, [number, number, number, number]> = {
  popup: [22, 13, 34, 28],
  fly_in: [48, 24, 26, 24],
  chat: [48, 14, 26, 36],
  bar: [0, 0, 78, 11],
  full: [0, 0, 78, 54],
  sheet: [50, 0, 28, 54],
  inline: [8, 22, 46, 16],
}

/** How a format sits on a page. */
export function FormatSketch({ format }: { format: Format }) {
  const [x, y, w, h] = boxes[format]
  const dim = format === 'popup' || format === 'sheet'
  return (
    <svg viewBox="0 0 78 54" width="100%" aria-hidden="true" style={{ display: 'block', borderRadius: 4, overflow: 'hidden', marginBottom: 3 }}>
      <rect width="78" height="54" fill={dim ? '#cdc1ac' : '#ece3d3'} />
      {[8, 15, 22, 29, 36, 43].map((line, i) => (
        <rect key={line} x="8" y={line} width={i ? 46 - (i % 3) * 8 : 22} height={i ? 3 : 4} rx="1" fill="#b9ab96" opacity=".6" />
      ))}
      <rect x={x} y={y} width={w} height={h} rx={format === 'popup' || format === 'fly_in' ? 3 : 0} fill={paper.sheet} stroke={paper.strong} strokeWidth=".7" />
      {format === 'bar' ? (
        <>
          <rect x="8" y="4" width="34" height="3" rx="1" fill={ink[1]} />
          <rect x="56" y="3" width="14" height="5" rx="1.5" fill={plum.main} />
        </>
      ) : (
        <>
          <rect x={x + w * 0.14} y={y + h * 0.2} width={w * 0.6} height="3" rx="1" fill={ink[1]} />
          <rect x={x + w * 0.14} y={y + h * 0.2 + 5} width={w * 0.7} height="2" rx="1" fill="#cbbfae" />
          <rect x={x + w * 0.14} y={y + h - Math.max(6, h * 0.24)} width={w * 0.72} height="4" rx="1.5" fill={plum.main} />
        </>
      )}
    </svg>
  )
}
