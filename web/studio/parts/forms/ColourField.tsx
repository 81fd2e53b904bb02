import Box from '@mui/material/Box'
import ButtonBase from '@mui/material/ButtonBase'
import Popover from '@mui/material/Popover'
import Tooltip from '@mui/material/Tooltip'
import Typography from '@mui/material/Typography'
import { useState } from 'react'
import { HexColorInput, HexColorPicker, setNonce } from 'react-colorful'
import type { Color, Kit } from '../../../kinds/style'
import { paint } from '../../../page/paint'
import { paper, plum } from '../look/theme'

interface Props {
  id?: string
  label: string
  value: Color
  kit: Kit
  /** Other colours at hand: those the design has already. */
  near?: Color[]
  /** Offers the page's own colour too. */
  page?: boolean
  /** Shows the colour alone; others are in what it opens. */
  bare?: boolean
  onChange(color: Color): void
}

// The picker brings a style of its own, under the studio's Content-Security-Policy.
setNonce(document.querySelector<HTMLMetaElement>('meta[property=csp-nonce]')?.nonce ?? '')

const chequered = 'repeating-conic-gradient(#d9d2c6 0 25%, #fff 0 50%) 0 0 / 10px 10px'

/** A colour: one of the site's style first, then those at hand, then any. */
export function ColourField({ id, label, value, kit, near = [], page, bare, onChange }: Props) {
  const [open, setOpen] = useState<HTMLElement | null>(null)
  const css = (c: Color) => (c === '@page' ? chequered : paint(kit, c, '#888888'))
  const nameOf = (c: Color) => (c === '@page' ? 'as the page has it' : c[0] === '@' ? (kit.colors.find(k => k.id === c.slice(1))?.name ?? c) : c)
  const offered = kit.colors.map(c => '@' + c.id)
  const free = [...new Set(near)].filter(c => c && c[0] === '#' && c !== value && !kit.colors.some(k => k.value === c))
  return (
    <Box sx={{ display: 'flex', gap: '5px', flexWrap: 'wrap' }}>
      <Swatch id={id} css={css(value)} on label={`${label}: ${nameOf(value)}, change`} name={nameOf(value)} onClick={e => setOpen(e.currentTarget)} />
      {offered
        .filter(c => c !== value)
        .slice(0, bare ? 0 : 4)
        .map(c => (
          <Swatch key={c} css={css(c)} label={`${label}: ${nameOf(c)}`} name={nameOf(c)} onClick={() => onChange(c)} />
        ))}
      <Popover open={!!open} anchorEl={open} onClose={() => setOpen(null)} anchorOrigin={{ vertical: 'bottom', horizontal: 'left' }}>
        <Box sx={{ p: 1.5, display: 'grid', gap: 1, width: 228 }}>
          <Typography variant="body2" color="textSecondary">
            The site's style
          </Typography>
          <Box sx={{ display: 'flex', gap: '6px', flexWrap: 'wrap' }}>
            {[...(page ? ['@page'] : []), ...offered].map(c => (
              <Swatch key={c} css={css(c)} on={c === value} label={`${label}: ${nameOf(c)}`} name={nameOf(c)} onClick={() => onChange(c)} />
            ))}
          </Box>
          {free.length > 0 && (
            <>
              <Typography variant="body2" color="textSecondary">
                In this design
              </Typography>
              <Box sx={{ display: 'flex', gap: '6px', flexWrap: 'wrap' }}>
                {free.slice(0, 10).map(c => (
                  <Swatch key={c} css={c} label={`${label}: ${c}`} name={c} onClick={() => onChange(c)} />
                ))}
              </Box>
            </>
          )}
          <Typography variant="body2" color="textSecondary">
            Any other
          </Typography>
          <HexColorPicker color={paint(kit, value, '#888888')} onChange={c => onChange(full(c))} />
          <Box
            component={HexColorInput}
            color={paint(kit, value, '#888888')}
            onChange={(c: string) => onChange(full(c))}
            prefixed
            aria-label={`${label}, as hex`}
            sx={{ font: 'inherit', p: '6px 9px', border: `1px solid ${paper.strong}`, borderRadius: '6px', width: 200 }}
          />
        </Box>
      </Popover>
    </Box>
  )
}

/** #abc is #aabbcc. */
const full = (c: string) => (c.length === 4 ? '#' + [...c.slice(1)].map(x => x + x).join('') : c).toLowerCase()

function Swatch({
  css,
  on,
  label,
  name,
  onClick,
  id,
}: {
  css: string
  on?: boolean
  label: string
  name: string
  id?: string
  onClick: React.MouseEventHandler<HTMLElement>
}) {
  return (
    <Tooltip title={name}>
      <ButtonBase
        id={id}
        aria-label={label}
        onClick={onClick}
        data-hue
        style={{ background: css }}
        sx={{
          width: 22,
          height: 22,
          borderRadius: '6px',
          boxShadow: 'inset 0 0 0 1px rgb(0 0 0 / .16)',
          ...(on && { outline: `2px solid ${plum.main}`, outlineOffset: 2, mr: '4px', ml: '2px' }),
        }}
      />
    </Tooltip>
  )
}
