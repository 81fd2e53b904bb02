import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import { useEffect, useState } from 'react'
import type { Drawing, Frame } from '../../../../kinds/piece'
import { phoneWidth } from '../../../../page/paint'
import { TextButton } from '../../../parts/look/TextButton'
import { paper } from '../../../parts/look/theme'
import { usePicking } from '../../../parts/pages/Picking'
import { height } from '../../../parts/pages/renderer'
import { useDrawing } from '../../../piece/drawing'
import { usePieceID } from '../../../server/queries'
import { changeFrame } from '../../commands/change'
import { useSeen } from '../../commands/view'
import { Flag, Line, Muted, Pick, Row } from '../controls/controls'

const narrow = 340 // px that a page leaves for it on a phone
const calm = 400 // ms until it is measured how high the design is now

/** The position of an inline piece in the page. */
export function AnchorSettings({ frame }: { frame: Frame }) {
  const picking = usePicking(s => s.pick)
  const { selector, where, pushes } = frame.anchor ?? {}
  const within = where === 'first' || where === 'last'
  return (
    <>
      <Row label="Position in the page" k="anchor" wide>
        {() =>
          selector ? (
            <Muted>
              {within ? 'Inside' : 'Beside'} <code>{selector}</code>.{' '}
              <TextButton onClick={() => changeFrame(f => void delete f.anchor)}>Use a placeholder</TextButton>
            </Muted>
          ) : (
            <Placeholder frame={frame} />
          )
        }
      </Row>
      <Box sx={{ p: '4px 16px' }}>
        <Button variant="outlined" size="small" fullWidth aria-pressed={picking} onClick={() => usePicking.setState({ pick: !picking })}>
          Choose an element on the page
        </Button>
      </Box>
      {selector && (
        <>
          <Line k="anchor.selector" label="Selector" max={500} />
          <Pick
            k="anchor.where"
            label="Position"
            options={[
              ['', 'After the element'],
              ['before', 'Before the element'],
              ['first', 'Inside, at the start'],
              ['last', 'Inside, at the end'],
            ]}
          />
        </>
      )}
      <Flag k="anchor.pushes" label="Show at once" />
      <Row label="" wide>
        {() => (
          <Muted>
            {pushes
              ? 'In view, it moves what stands below it down as it comes. Search engines measure that.'
              : selector
                ? `Nothing jumps while people read: it comes while its position is out of view. In view from the start, it waits until they have scrolled on${within ? ', unless that element is empty and high enough' : ''}.`
                : 'Nothing jumps while people read: it comes into a placeholder as high as this one at once, else while that is out of view.'}
          </Muted>
        )}
      </Row>
    </>
  )
}

/** What keeps a place for a piece in a page, as high as it will be. */
function Placeholder({ frame }: { frame: Frame }) {
  const piece = usePieceID()
  const { doc, design } = useSeen()
  const [wide, handheld] = useHeights(useDrawing(doc, design), frame.width)
  const [copied, setCopied] = useState('')
  const at = `[data-gobbet="${piece}"]`
  // As long before it is measured: nothing moves in the settings either.
  const px = (height: number) => `${height || '···'}px`
  const room = `<style>${at} { min-height: ${px(wide)} } @media (max-width: ${phoneWidth}px) { ${at} { min-height: ${px(handheld)} } }</style>`
  const code = `${room}\n<div data-gobbet="${piece}"></div>`
  return (
    <Box sx={{ display: 'grid', gap: '6px' }}>
      <Muted>Put this into the page, or choose an element.</Muted>
      <Box
        component="pre"
        tabIndex={0}
        aria-label="Placeholder"
        sx={{
          m: 0,
          p: '8px 10px',
          fontSize: 11.5,
          lineHeight: 1.5,
          whiteSpace: 'pre-wrap',
          overflowWrap: 'anywhere',
          background: paper.bench,
          border: `1px solid ${paper.line}`,
          borderRadius: '6px',
        }}
      >
        {code}
      </Box>
      <Button
        size="small"
        variant="outlined"
        disabled={!wide}
        sx={{ justifySelf: 'start' }}
        onClick={() =>
          navigator.clipboard?.writeText(code).then(
            () => setCopied(code),
            () => {},
          )
        }
      >
        {copied === code ? '✓ Copied' : 'Copy'}
      </Button>
    </Box>
  )
}

/** How high a drawing is in a column of a width, and on a phone, in px; 0 until that is known. */
function useHeights(drawing: Drawing, width: number): [wide: number, handheld: number] {
  const [heights, setHeights] = useState<[number, number]>([0, 0])
  useEffect(() => {
    let here = true
    const measure = () => here && setHeights([height(drawing, width), height(drawing, narrow, { phone: true })])
    // Not before its letters are there.
    const timer = setTimeout(() => document.fonts.ready.then(measure), calm)
    return () => {
      here = false
      clearTimeout(timer)
    }
  }, [drawing, width])
  return heights
}
