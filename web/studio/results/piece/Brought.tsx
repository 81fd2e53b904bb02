import Box from '@mui/material/Box'
import Typography from '@mui/material/Typography'
import type { GoalGain, SplitResult } from '../../../kinds/studio'
import { moss } from '../../parts/look/theme'
import { count, counted, money, percent } from '../../parts/words/say'

/** What the piece brought of the site's goals, over visitors who were held back. */
export function Brought({ result }: { result: SplitResult }) {
  const gains = result.gains.filter(g => g.gain.shown.conversions + g.gain.held.conversions > 0)
  if (!gains.length) return null
  return (
    <>
      <Typography variant="h3" component="h2" sx={{ mb: '4px' }}>
        What it brings
      </Typography>
      {gains.map(g => (
        <Gain key={g.goal} g={g} name={result.goals.find(x => x.id === g.goal)?.name ?? g.goal} currency={result.currency} />
      ))}
      <Typography variant="body2" color="textSecondary">
        Held back are visitors who would have been shown it and were not, chosen by chance.
      </Typography>
    </>
  )
}

function Gain({ g, name, currency }: { g: GoalGain; name: string; currency: string }) {
  const { shown, held, conversions, bounds, value, value_bounds, sure } = g.gain
  const rate = (c: typeof shown) => `${percent(c.conversions / c.visitors)} of ${count(c.visitors)}`
  const n = Math.round(conversions ?? 0)
  return (
    <Box sx={{ mb: '10px' }} data-gain={g.goal}>
      <b>{name}:</b>{' '}
      {sure ? (
        <b style={{ color: moss.ink }}>{`${counted(Math.abs(n), n < 0 ? 'fewer' : 'more', n < 0 ? 'fewer' : 'more')} than without it`}</b>
      ) : (
        'no sure difference yet'
      )}
      <Box sx={{ fontSize: 13, color: 'text.secondary' }}>
        Reached by {rate(shown)} who were shown it, {rate(held)} held back.{' '}
        {bounds[0] !== null && `Between ${count(Math.round(bounds[0]))} and ${count(Math.round(bounds[1]!))} more.`}
        {value !== null && ` Worth ${money(value, currency)} (${money(value_bounds[0]!, currency)} to ${money(value_bounds[1]!, currency)}).`}
      </Box>
    </Box>
  )
}
