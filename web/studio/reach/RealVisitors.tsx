import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import ButtonBase from '@mui/material/ButtonBase'
import Popover from '@mui/material/Popover'
import Typography from '@mui/material/Typography'
import { useState } from 'react'
import type { RecordedVisitor } from '../../kinds/studio'
import { brick, ink, moss, paper, plum } from '../parts/look/theme'
import { clock } from '../parts/words/say'
import { moment } from '../parts/words/time'
import type { Rule } from '../rule/kinds'
import { rooted } from '../rule/rules'
import { useVisitors } from '../server/queries'

/** Recorded visitors, those on whom the rule comes true and those on whom it does not. */
export function RealVisitors({ rule, onPick }: { rule: Rule; onPick(v: RecordedVisitor): void }) {
  const [open, setOpen] = useState<HTMLElement | null>(null)
  const { data, error } = useVisitors(rooted(rule), !!open)
  return (
    <>
      <Button size="small" variant="outlined" onClick={e => setOpen(e.currentTarget)} aria-haspopup="dialog">
        Recorded visitor…
      </Button>
      <Popover
        open={!!open}
        anchorEl={open}
        onClose={() => setOpen(null)}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'right' }}
        transformOrigin={{ vertical: 'top', horizontal: 'right' }}
      >
        <Box sx={{ width: 430, maxHeight: 460, overflowY: 'auto', py: '6px' }} role="list" aria-label="Recorded visitors">
          {error && <Typography sx={{ p: 2, color: brick.main }}>{error.message}</Typography>}
          {data?.length === 0 && <Typography sx={{ p: 2, color: ink[2] }}>No visits recorded yet.</Typography>}
          {data?.map((v, i) => (
            <ButtonBase
              key={i}
              role="listitem"
              onClick={() => {
                onPick(v)
                setOpen(null)
              }}
              sx={{
                display: 'flex',
                justifyContent: 'flex-start',
                width: '100%',
                gap: '10px',
                textAlign: 'start',
                alignItems: 'baseline',
                p: '6px 14px',
                borderBottom: `1px solid ${paper.line}`,
                '&:hover, &:focus-visible': { background: plum.wash },
              }}
            >
              <Box
                component="b"
                sx={{ color: v.comes ? moss.ink : brick.main, width: 14 }}
                aria-label={v.comes ? 'the rule comes true' : 'the rule does not come true'}
              >
                {v.comes ? '✓' : '✗'}
              </Box>
              <Box sx={{ minWidth: 0 }}>
                <Box sx={{ fontWeight: 600, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>{String(v.facts['page.path'] ?? '')}</Box>
                <Box sx={{ color: ink[2], fontSize: 12.5 }}>{about(v)}</Box>
              </Box>
            </ButtonBase>
          ))}
        </Box>
      </Popover>
    </>
  )
}

const about = (v: RecordedVisitor) =>
  [
    moment(v.at),
    v.facts['device.kind'],
    v.facts['source.channel'] && `from ${v.facts['source.channel']}`,
    v.facts['visitor.visits'] === 1 ? 'first visit' : `visit ${v.facts['visitor.visits']}`,
    `stayed ${clock(v.stay.seconds)}`,
  ]
    .filter(Boolean)
    .join(' · ')

/** Who was taken from the log. */
export function RealVisitor({ visitor, onBack }: { visitor: RecordedVisitor; onBack(): void }) {
  return (
    <Box sx={{ my: '10px', p: '8px 12px', background: paper.bench, border: `1px solid ${paper.line}`, borderRadius: '8px' }}>
      <Box sx={{ fontWeight: 600, overflowWrap: 'anywhere' }}>{String(visitor.facts['page.path'] ?? '')}</Box>
      <Box sx={{ color: ink[2], fontSize: 12.5 }}>A recorded page view: {about(visitor)}</Box>
      <ButtonBase onClick={onBack} sx={{ color: plum.main, fontWeight: 600, fontSize: 12.5, mt: '2px' }}>
        Back to a made-up visitor
      </ButtonBase>
    </Box>
  )
}
