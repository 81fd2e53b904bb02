import Box from '@mui/material/Box'
import Typography from '@mui/material/Typography'
import type { ReactNode } from 'react'
import { Link } from 'react-router'
import type { Contest, Rehearsal } from '../../kinds/studio'
import { apricot, brick, display, ink, paper } from '../parts/look/theme'
import { clock, count, counted } from '../parts/words/say'
import { moment } from '../parts/words/time'
import { Trouble } from '../server/api'
import { useAddress } from '../server/queries'

/** What the reach would have done, in figures: whom it would have shown to, how often, after how long, and what it loses to others. */
export function Outcome({ rehearsal: r, error }: { rehearsal?: Rehearsal; error: Error | null }) {
  const at = useAddress()
  if (!r)
    return (
      <Foot>
        <Typography color="textSecondary">
          {error instanceof Trouble && error.status === 422
            ? 'Fix what is marked to see how many it would reach.'
            : (error?.message ?? 'Replaying the recorded visits…')}
        </Typography>
      </Foot>
    )
  if (!r.page_views)
    return (
      <Foot>
        <Typography color="textSecondary">
          No visits recorded in the last {r.days} days, so there is nothing to rehearse on yet.{' '}
          {r.sample === 0 ? (
            <>
              Recording is off: turn it on in the <Link to={at('/settings#recording')}>settings</Link>.
            </>
          ) : (
            'Visits are recorded once the script is on your pages.'
          )}
        </Typography>
      </Foot>
    )
  const lost = r.lost.reduce((n, l) => n + l.views, 0)
  const { quiet } = r
  const limited = r.lost_to_site - quiet.lost
  return (
    <Foot>
      <Box sx={{ display: 'flex', gap: '18px', alignItems: 'flex-start' }} aria-live="polite" aria-label="On recorded visits" role="group">
        <Figure figure={count(r.visitors_shown)} under={`of ${count(r.visitors)} visitors see it`} name="visitors" />
        <Figure
          figure={count(r.showings)}
          under={r.visitors_shown ? `showings, ${(r.showings / r.visitors_shown).toFixed(1)} each` : 'showings'}
          name="showings"
        />
        <Figure figure={r.typical_wait === null ? '–' : clock(r.typical_wait)} under="typical wait" name="wait" />
        <Figure figure={count(r.held)} under="held back by frequency or schedule" name="held" />
        {lost > 0 && <Figure figure={count(lost)} under={`shown ${named(r.lost)} instead`} bad name="lost" />}
        {quiet.lost > 0 && <Figure figure={count(quiet.lost)} under={`held back by the site's minimum of ${quiet.minimum} between pieces`} bad name="quiet" />}
        {limited > 0 && (
          <Figure
            figure={count(limited)}
            under={
              <>
                held back by the site's <Link to={at('/settings#limits')}>limit of pieces over the page</Link>
              </>
            }
            bad
            name="site"
          />
        )}
      </Box>
    </Foot>
  )
}

/** What the figures rest on, and which pieces it meets. */
export function OutcomeNotes({ rehearsal: r, format }: { rehearsal?: Rehearsal; format: string }) {
  const at = useAddress()
  if (!r?.page_views) return null
  const lost = r.lost.reduce((n, l) => n + l.views, 0)
  const { quiet } = r
  const slot = { fly_in: 'in the corner', chat: 'in the corner', bar: 'along the edge', inline: 'in the page' }[format as string] ?? 'over the page'
  return (
    <Box sx={{ borderTop: `1px solid ${paper.line}`, mt: '10px', pt: '8px', pb: '8px' }} data-notes>
      <Box sx={{ color: ink[2], fontSize: 13 }}>
        {lost > 0 && (
          <>
            {cap(slot)} it yields to {r.lost.map(l => `“${l.name}” on ${counted(l.views, 'page view')}`).join(', ')}.{' '}
          </>
        )}
        {r.won.length > 0 && (
          <>
            {lost > 0 ? '' : cap(slot) + ' '}
            {r.won.map(l => `“${l.name}” yields to it on ${counted(l.views, 'page view')}`).join(', ')}.{' '}
          </>
        )}
        {lost === 0 && r.won.length === 0 && <>No conflicts {slot}. </>}
        <Link to={at('/priority')}>Priority</Link>
      </Box>
      {(quiet.lost > 0 || quiet.later > 0) && (
        <Box sx={{ color: ink[2], fontSize: 13 }} data-quiet>
          The site's minimum of {quiet.minimum} between pieces{' '}
          {[quiet.lost > 0 && `costs it ${counted(quiet.lost, 'showing')}`, quiet.later > 0 && `has it come later on ${counted(quiet.later, 'page view')}`]
            .filter(Boolean)
            .join(' and ')}
          {quiet.after.length > 0 && <>, after {quiet.after.map(l => `“${l.name}”`).join(', ')}</>}. <Link to={at('/settings#limits')}>Change the minimum</Link>
        </Box>
      )}
      <Box sx={{ mt: '4px', color: ink[2], fontSize: 12.5 }}>
        Replayed on {count(r.page_views)} recorded page views{' '}
        {r.since ? `since ${moment(r.since)}; older ones are still being read` : `of the last ${r.days} days`}
        {r.sample < 100 ? `, of ${r.sample} in 100 visitors` : ''}. Closes and conversions are not replayed, so waiting after them holds back more than this.
      </Box>
    </Box>
  )
}

const Foot = ({ children }: { children: ReactNode }) => (
  <Box
    data-outcome
    sx={{
      borderTop: `1px solid ${paper.line}`,
      pt: '10px',
      pb: '6px',
      mx: '-20px',
      px: '20px',
    }}
  >
    {children}
  </Box>
)

const cap = (words: string) => words[0].toUpperCase() + words.slice(1)

const named = (lost: Contest[]) => (lost.length === 1 ? `“${lost[0].name}”` : `“${lost[0].name}” and ${lost.length - 1} more`)

function Figure({ figure, under, bad, name }: { figure: string; under: ReactNode; bad?: boolean; name: string }) {
  return (
    <Box sx={{ flex: '1 1 0', minWidth: 0 }} data-figure={name}>
      <Box sx={{ font: `620 20px/1.2 ${display}`, color: bad ? brick.main : figure === '0' ? apricot.ink : ink[1] }}>{figure}</Box>
      <Box sx={{ color: ink[2], fontSize: 12.5, lineHeight: 1.3 }}>{under}</Box>
    </Box>
  )
}
