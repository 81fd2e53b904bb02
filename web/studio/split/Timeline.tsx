import Box from '@mui/material/Box'
import Typography from '@mui/material/Typography'
import { useState } from 'react'
import type { SplitResult, SplitRun } from '../../kinds/studio'
import { counted, letters, moment } from '../parts/say'
import { TextButton } from '../parts/TextButton'
import { ink, moss, variantColors } from '../theme'

const few = 4

/** Since when visitors are split as they are, the latest first. */
export function Timeline({ result }: { result: SplitResult }) {
  const [all, setAll] = useState(false)
  const runs = all ? result.runs : result.runs.slice(0, few)
  return (
    <>
      <Typography variant="h3" component="h2" sx={{ mb: '6px' }}>
        Time line
      </Typography>
      {runs.map((r, i) => (
        <Box key={r.run} sx={{ display: 'grid', gridTemplateColumns: '12px 1fr', gap: '10px', pb: '9px' }}>
          <Box
            aria-hidden
            sx={{
              width: 9,
              height: 9,
              borderRadius: '50%',
              mt: '5px',
              background: r.compared ? moss.main : 'none',
              border: `1.5px solid ${r.compared ? moss.main : ink[3]}`,
            }}
          />
          <Box sx={{ fontSize: 13 }}>
            {moment(r.began)}
            {i === 0 && ' to now'}
            {r.compared && ' · compared'}
            <Shares run={r} />
            <Box sx={{ color: 'text.secondary' }}>{counted(r.visitors, 'visitor')} saw it first in this time</Box>
          </Box>
        </Box>
      ))}
      {result.runs.length > few && <TextButton onClick={() => setAll(!all)}>{all ? 'Show fewer' : `Show all ${result.runs.length}`}</TextButton>}
    </>
  )
}

function Shares({ run }: { run: SplitRun }) {
  const sum = run.variants.reduce((n, v) => n + v.share, 0) || 1
  const active = run.variants.filter(v => v.share > 0)
  return (
    <Box>
      {run.variants.map(
        (v, i) =>
          v.share > 0 && (
            <span key={v.id}>
              <b style={{ color: variantColors[i % variantColors.length] }}>{letters[i]}</b>{' '}
              {active.length > 1 ? `${Math.round((100 * v.share) / sum)} % ` : v.name}{' '}
            </span>
          ),
      )}
      {run.held > 0 && `· ${run.held} % held back`}
      {run.follow && ' · followed the winner'}
    </Box>
  )
}
