import Box from '@mui/material/Box'
import Typography from '@mui/material/Typography'
import { type ReactNode, useState } from 'react'
import type { SplitMove, SplitResult, SplitRun } from '../../../kinds/studio'
import { TextButton } from '../../parts/look/TextButton'
import { brick, ink, moss, variantColor } from '../../parts/look/theme'
import { counted } from '../../parts/words/say'
import { moment } from '../../parts/words/time'

const few = 6

/** What was done with the piece, and since when visitors are split as they are, the latest first. */
export function Timeline({ result }: { result: SplitResult }) {
  const [all, setAll] = useState(false)
  // A launch that splits visitors otherwise begins a run at the same moment: the two are one entry.
  const launches = new Map(result.moves.filter(m => m.did === 'launched').map(m => [m.at, m]))
  const entries = [
    ...result.runs.map((run, i) => ({ at: run.began, run, first: i === 0, move: launches.get(run.began) })),
    ...result.moves
      .filter(m => !result.runs.some(r => r.began === m.at && m.did === 'launched'))
      .map(move => ({ at: move.at, move, run: undefined, first: false })),
  ].sort((a, b) => b.at.localeCompare(a.at))
  const shown = all ? entries : entries.slice(0, few)
  return (
    <>
      <Typography variant="h3" component="h2" sx={{ mb: '6px' }}>
        Time line
      </Typography>
      {shown.map(({ at, run, move, first }) => (
        <Entry key={`${at} ${run?.run ?? move?.did}`} full={!!run?.compared} stopped={move?.did === 'paused' || move?.did === 'ended'}>
          {moment(at)}
          {move && <b> {saidOf(move)}</b>}
          {run && (
            <>
              {first && !move && ' to now'}
              {run.compared && ' · compared'}
              <Shares run={run} />
              <Box sx={{ color: 'text.secondary' }}>{counted(run.visitors, 'visitor')} saw it first in this time</Box>
            </>
          )}
        </Entry>
      ))}
      {entries.length > few && <TextButton onClick={() => setAll(!all)}>{all ? 'Show fewer' : `Show all ${entries.length}`}</TextButton>}
    </>
  )
}

const Entry = ({ full, stopped, children }: { full: boolean; stopped: boolean; children: ReactNode }) => (
  <Box sx={{ display: 'grid', gridTemplateColumns: '12px 1fr', gap: '10px', pb: '9px' }}>
    <Box
      aria-hidden
      sx={{
        width: 9,
        height: 9,
        borderRadius: stopped ? '2px' : '50%',
        mt: '5px',
        background: full ? moss.main : 'none',
        border: `1.5px solid ${full ? moss.main : stopped ? brick.main : ink[3]}`,
      }}
    />
    <Box sx={{ fontSize: 13 }}>{children}</Box>
  </Box>
)

/** What was done, in words. */
function saidOf(m: SplitMove) {
  const changed = [m.designs.length && `${m.designs.join(', ')} looks different`, m.reach && 'its reach changed'].filter(Boolean).join(', ')
  const did = {
    launched: 'Launched',
    replaced: 'Changed',
    paused: 'Paused',
    planned: 'Pause planned',
    unplanned: 'Planned pause cancelled',
    resumed: 'Resumed',
    stayed_paused: 'Not resumed, as it could not go live',
    ended: 'Schedule ended',
    removed: 'Deleted',
    restored: 'Restored',
  }[m.did]
  const when = `${m.from ? ` from ${moment(m.from)}` : ''}${m.until ? ` until ${moment(m.until)}` : ''}`
  return `${did}${when}${m.by && ` by ${m.by}`}${changed ? `: ${changed}` : ''}`
}

function Shares({ run }: { run: SplitRun }) {
  const sum = run.variants.reduce((n, v) => n + v.share, 0) || 1
  const active = run.variants.filter(v => v.share > 0)
  return (
    <Box>
      {run.variants.map(
        v =>
          v.share > 0 && (
            <span key={v.id}>
              <b style={{ color: variantColor(v.letter) }}>{v.letter}</b> {active.length > 1 ? `${Math.round((100 * v.share) / sum)} % ` : v.name}{' '}
            </span>
          ),
      )}
      {run.held > 0 && `· ${run.held} % held back`}
      {run.follow && ' · followed the winner'}
    </Box>
  )
}
