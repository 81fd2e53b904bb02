import MoreVert from '@mui/icons-material/MoreVert'
import Box from '@mui/material/Box'
import Checkbox from '@mui/material/Checkbox'
import IconButton from '@mui/material/IconButton'
import Menu from '@mui/material/Menu'
import MenuItem from '@mui/material/MenuItem'
import Typography from '@mui/material/Typography'
import { useState } from 'react'
import { Link, useNavigate } from 'react-router'
import type { Card, DayCount } from '../../kinds/studio'
import { applies, nameOf } from '../parts/keys/actions'
import { StateTag } from '../parts/look/Tag'
import { brick, display, paper, plum } from '../parts/look/theme'
import { between, counted, letters, percent } from '../parts/words/say'
import { day, moment } from '../parts/words/time'
import { duplicatePiece, pieceActions } from '../piece/actions'
import { CardDrawing } from '../piece/CardDrawing'
import { addressOf } from '../server/api'
import { formats, useAddress, useSite } from '../server/queries'

interface Props {
  card: Card
  chosen: boolean
  /** Some card is chosen: every card offers to be. */
  choosing: boolean
  onChoose(): void
}

/** One piece: what it looks like, how it does, and the one thing worth knowing about it. */
export function PieceCard({ card, chosen, choosing, onChoose }: Props) {
  const [menu, setMenu] = useState<HTMLElement | null>(null)
  const site = useSite().id
  const at = useAddress()
  const go = useNavigate()
  const on = { site, pieces: [card] }
  const duplicate = async () => {
    const id = await duplicatePiece(site, card)
    if (id) go(at(`/pieces/${id}/compose`))
  }
  if (card.unreadable)
    return (
      <Box sx={{ background: paper.sheet, border: `1px solid ${paper.line}`, borderRadius: '10px', p: 2 }}>
        <Typography variant="h3">{card.name}</Typography>
        <Typography sx={{ color: brick.main }}>This piece cannot be read: {card.unreadable}</Typography>
      </Box>
    )
  return (
    <Box
      component="article"
      aria-label={card.name}
      sx={{
        position: 'relative',
        overflow: 'hidden',
        background: paper.sheet,
        border: `1px solid ${chosen ? plum.main : paper.line}`,
        borderRadius: '10px',
        '&:hover': { borderColor: chosen ? plum.main : paper.strong },
        '&:focus-within': { borderColor: plum.main },
        '& .choose': { opacity: choosing ? 1 : 0 },
        '&:hover .choose, &:focus-within .choose': { opacity: 1 },
      }}
    >
      <Box
        component={Link}
        to={at(`/pieces/${card.id}/${card.state === 'draft' ? 'compose' : 'results'}`)}
        sx={{ display: 'block', color: 'inherit', textDecoration: 'none' }}
      >
        <Box sx={{ borderBottom: `1px solid ${paper.line}`, height: 172, '& > div': { width: '100% !important' } }}>
          <CardDrawing card={card} width={296} height={172} />
        </Box>
        <Box sx={{ p: '11px 13px 12px' }}>
          <Box sx={{ display: 'flex', justifyContent: 'space-between', gap: 1, pr: '26px' }}>
            <Typography variant="h3" component="h2" sx={{ fontSize: 15.5 }} noWrap>
              {card.name}
            </Typography>
            <StateTag state={card.state} />
          </Box>
          <Typography variant="body2" color="textSecondary">
            {formats[card.format]}
            {card.variants > 1 && ` · ${letters.slice(0, card.variants).split('').join('/')}`}
          </Typography>
          <Box sx={{ display: 'flex', justifyContent: 'space-between', alignItems: 'flex-end', gap: '12px', mt: '6px', minHeight: 46 }}>
            <Box>
              <Box component="span" sx={{ font: `620 22px ${display}` }}>
                {card.measure.rate === null ? '–' : percent(card.measure.rate)}
              </Box>
              <Typography variant="body2" color="textSecondary" sx={{ lineHeight: 1.3 }}>
                {card.measure.rate === null ? 'no visitors yet' : `of ${counted(card.measure.visitors, 'visitor')} · `}
                {card.measure.rate !== null && <span style={{ whiteSpace: 'nowrap' }}>{between(card.measure.interval)}</span>}
              </Typography>
            </Box>
            <Line days={card.line} />
          </Box>
          <Typography
            variant="body2"
            color="textSecondary"
            sx={{
              mt: '8px',
              pt: '7px',
              borderTop: `1px dashed ${paper.line}`,
              minHeight: 44,
              display: '-webkit-box',
              WebkitLineClamp: 2,
              WebkitBoxOrient: 'vertical',
              overflow: 'hidden',
            }}
            title={worthKnowing(card)}
          >
            {worthKnowing(card)}
          </Typography>
        </Box>
      </Box>
      <Checkbox
        className="choose"
        size="small"
        checked={chosen}
        onChange={onChoose}
        slotProps={{ input: { 'aria-label': `Select ${card.name}` } }}
        sx={{
          position: 'absolute',
          left: 6,
          top: 6,
          p: '3px',
          background: 'rgb(255 253 249 / .92)',
          borderRadius: '6px',
          '&:hover': { background: paper.sheet },
        }}
      />
      <IconButton aria-label={`More actions for ${card.name}`} onClick={e => setMenu(e.currentTarget)} sx={{ position: 'absolute', right: 5, top: 178 }}>
        <MoreVert fontSize="small" />
      </IconButton>
      <Menu open={!!menu} anchorEl={menu} onClose={() => setMenu(null)} onClick={() => setMenu(null)}>
        <MenuItem component={Link} to={at(`/pieces/${card.id}/compose`)}>
          Compose
        </MenuItem>
        <MenuItem component={Link} to={at(`/pieces/${card.id}/reach`)}>
          Reach
        </MenuItem>
        <MenuItem onClick={duplicate}>Duplicate</MenuItem>
        <MenuItem component="a" href={addressOf('GET /sites/:site/pieces/:piece/file', { site, piece: card.id })} download>
          Download as a file
        </MenuItem>
        {Object.values(pieceActions)
          .filter(a => applies(a, on))
          .map(a => (
            <MenuItem key={nameOf(a, on)} onClick={() => a.run(on)}>
              {nameOf(a, on)}
            </MenuItem>
          ))}
      </Menu>
    </Box>
  )
}

function worthKnowing(card: Card): string {
  const checks = card.stops + card.warns
  if (card.state === 'draft') return checks ? `${counted(checks, 'check')} to look at before launch.` : 'Ready to launch.'
  if (card.state === 'over') return `Its schedule ended on ${day(card.since)}: it no longer shows.`
  if (card.pauses_at) return `Pauses on ${moment(card.pauses_at)}${card.paused_until ? `, until ${moment(card.paused_until)}` : ''}.`
  if (card.edited) return 'Has changes that are not live yet.'
  if (card.state === 'paused') return card.paused_until ? `Paused until ${moment(card.paused_until)}.` : `Paused since ${day(card.since)}.`
  return `Shows when ${card.phrase}.`
}

/** Rate by day, three days together up to yesterday, as a plain line. */
function Line({ days }: { days: DayCount[] }) {
  const groups = []
  const whole = days.slice(0, -1)
  for (let i = whole.length % 3; i < whole.length; i += 3) {
    const some = whole.slice(i, i + 3)
    const visitors = some.reduce((n, d) => n + d.visitors, 0)
    if (visitors) groups.push(some.reduce((n, d) => n + d.conversions, 0) / visitors)
  }
  if (groups.length < 3) return null
  const top = Math.max(...groups, 0.01)
  return (
    <svg width="92" height="28" viewBox="0 0 92 28" aria-hidden="true">
      <polyline
        fill="none"
        stroke={plum.main}
        strokeWidth="2"
        strokeLinejoin="round"
        points={groups.map((g, i) => `${1 + (i * 90) / (groups.length - 1)},${26 - (g / top) * 23}`).join(' ')}
      />
    </svg>
  )
}
