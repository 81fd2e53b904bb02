import Box from '@mui/material/Box'
import ButtonBase from '@mui/material/ButtonBase'
import InputBase from '@mui/material/InputBase'
import Tooltip from '@mui/material/Tooltip'
import { memo, useState, useSyncExternalStore } from 'react'
import type { Text } from '../../../../kinds/piece'
import { paint } from '../../../../page/paint'
import { ink, paper, plum } from '../../../parts/look/theme'
import type { Rect } from '../../../parts/pages/rect'
import { useSite } from '../../../server/queries'
import { changeBlock } from '../../commands/change'
import { turn } from '../../commands/turn'
import type { Pen, Toggled } from './editText'

const width = 316 // px, of one line of it
const sizes = [12, 14, 16, 18, 20, 24, 28, 34, 42, 56, 72]

/** The toolbar above a text that is edited on the page. */
export default memo(function TextToolbar({ pen, rect, scale, ink: ours, accent }: { pen: Pen; rect: Rect; scale: number; ink: string; accent: string }) {
  const { kit } = useSite()
  const [link, setLink] = useState<string | null>(null)
  const [more, setMore] = useState(false)
  const { block } = pen
  const align = (to: 'start' | 'center' | 'end') => changeBlock(block.id, b => void ((b as Text).align = to))
  const looks = useSyncExternalStore(pen.watch, pen.looks).split(' ')
  if (!pen.rich) return null
  const act = (name: string, glyph: React.ReactNode, run: () => void, on?: boolean) => (
    <Tooltip title={name} key={name}>
      <ButtonBase
        aria-label={name}
        aria-pressed={on}
        onMouseDown={e => e.preventDefault()}
        onClick={run}
        sx={{
          background: on ? plum.wash : undefined,
          minWidth: 27,
          height: 27,
          px: '4px',
          borderRadius: '4px',
          fontSize: 14,
          '&:hover': { background: plum.wash },
        }}
      >
        {glyph}
      </ButtonBase>
    </Tooltip>
  )
  const toggle = (look: Toggled, name: string, glyph: React.ReactNode) => act(name, glyph, () => pen.toggle(look), looks.includes(look))
  return (
    <Box
      data-pen
      role="toolbar"
      aria-label="Text formatting"
      onPointerDown={e => e.stopPropagation()}
      style={{
        left: `max(4px, min(${rect.left * scale}px, 100% - ${width}px))`,
        ...(rect.top * scale > 96 ? { top: rect.top * scale - 10, transform: 'translateY(-100%)' } : { top: (rect.top + rect.height) * scale + 10 }),
      }}
      sx={{
        position: 'absolute',
        zIndex: 5,
        display: 'flex',
        flexWrap: 'wrap',
        alignItems: 'center',
        gap: '1px',
        p: '4px',
        background: paper.sheet,
        border: `1px solid ${paper.strong}`,
        borderRadius: '8px',
        boxShadow: '0 6px 24px rgb(36 26 46 / .2)',
        maxWidth: 420,
        color: ink[1],
      }}
    >
      {block.kind !== 'heading' && toggle('bold', 'Bold (Ctrl B)', <b>B</b>)}
      {toggle('italic', 'Italic (Ctrl I)', <i>I</i>)}
      {toggle('underline', 'Underline (Ctrl U)', <u>U</u>)}
      {act('Link', <Chain />, () => setLink('https://'), looks.includes('link'))}
      {block.kind !== 'list' && act('Align left', '⇤', () => align('start'))}
      {block.kind !== 'list' && act('Align centre', '↔', () => align('center'))}
      {block.kind !== 'list' && act('Align right', '⇥', () => align('end'))}
      {block.kind !== 'heading' &&
        act(block.kind === 'list' ? 'Turn into text' : 'Turn into a list', '≔', () => {
          pen.end()
          turn(block)
        })}
      {act('Size and colour', <span style={{ borderBottom: `3px solid ${plum.main}`, lineHeight: 1 }}>A</span>, () => setMore(!more))}
      {act('Insert the first name', '{ }', () => pen.insert('{first name|friend}'))}
      {more && (
        <Box sx={{ flexBasis: '100%', display: 'flex', flexWrap: 'wrap', gap: '4px', pt: '4px', alignItems: 'center' }}>
          <Box
            component="select"
            aria-label="Font size"
            defaultValue=""
            onChange={e => pen.size(Number((e.target as unknown as HTMLSelectElement).value))}
            sx={{ font: 'inherit', fontSize: 13, height: 26 }}
          >
            <option value="" disabled>
              Size
            </option>
            {sizes.map(n => (
              <option key={n}>{n}</option>
            ))}
          </Box>
          {[...kit.colors.map(c => '@' + c.id), ...[ours, accent].filter(c => c[0] === '#')].slice(0, 12).map(c => (
            <ButtonBase
              key={c}
              aria-label={`Colour ${c}`}
              onMouseDown={e => e.preventDefault()}
              onClick={() => pen.color(c)}
              data-hue
              style={{ background: paint(kit, c) }}
              sx={{ width: 22, height: 22, borderRadius: '5px', boxShadow: 'inset 0 0 0 1px rgb(0 0 0 / .16)' }}
            />
          ))}
        </Box>
      )}
      {link !== null && (
        <Box sx={{ flexBasis: '100%', display: 'flex', gap: '4px', pt: '4px' }}>
          <InputBase
            autoFocus
            value={link}
            onChange={e => setLink(e.target.value)}
            onKeyDown={e => {
              e.stopPropagation()
              if (e.key === 'Enter') {
                // The words get the focus back before the key is done: it must not reach them.
                e.preventDefault()
                pen.link(/^(https?:\/\/.|mailto:|tel:|\/)/i.test(link.trim()) ? link.trim() : '')
                setLink(null)
              }
              if (e.key === 'Escape') setLink(null)
            }}
            inputProps={{ 'aria-label': 'Link', maxLength: 2000 }}
            placeholder="https://, mailto:, tel: or /"
            sx={{ flex: 1, fontSize: 13, border: `1px solid ${paper.field}`, borderRadius: '5px', px: '8px', height: 28 }}
          />
          {act('Remove the link', '⊘', () => {
            pen.link('')
            setLink(null)
          })}
        </Box>
      )}
    </Box>
  )
})

const Chain = () => (
  <svg
    viewBox="0 0 24 24"
    width="16"
    height="16"
    fill="none"
    stroke="currentColor"
    strokeWidth="2"
    strokeLinecap="round"
    aria-hidden="true"
    style={{ verticalAlign: '-3px' }}
  >
    <path d="M10 14a4 4 0 0 0 6 0l3-3a4 4 0 0 0-6-6l-1 1M14 10a4 4 0 0 0-6 0l-3 3a4 4 0 0 0 6 6l1-1" />
  </svg>
)
