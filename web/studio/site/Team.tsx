import Typography from '@mui/material/Typography'
import { TextIn } from '../parts/forms/formFields'
import { counted } from '../parts/words/say'
import { outdated, useAlerts, useSite } from '../server/queries'
import { Setting } from './Setting'
import { linesOf, useSettingsForm } from './useSiteForm'

/** Whose visits are not visitors': the team's own. */
export function Team() {
  const { team } = useSite().settings
  const alerts = useAlerts().data
  const { saved, standing, form } = useSettingsForm('team', {
    from: s => ({ team: s.team.join('\n') }),
    to: ({ team }) => ({ team: linesOf(team) }),
    done(site) {
      for (const key of ['results', 'split', 'alerts']) outdated(key, site)
    },
  })
  const out = alerts?.left_out.filter(l => l.why === 'team').reduce((sum, l) => sum + l.events, 0)
  return (
    <Setting
      id="team"
      name="Your team’s visits"
      state={
        team.length
          ? `${counted(team.length, 'address', 'addresses')} left out of all counts${alerts ? `: ${counted(out ?? 0, 'event')} in the last ${alerts.days} days` : ''}.`
          : 'Counted like any other: list your addresses to leave them out.'
      }
      well={team.length ? true : undefined}
      form={{ standing, saved }}
    >
      <TextIn
        control={form.control}
        name="team"
        label="Your team’s addresses"
        multiline
        minRows={3}
        placeholder="203.0.113.7"
        help="IP addresses or networks, one per line. Their visits are left out of all counts."
        slotProps={{ inputLabel: { shrink: true } }}
      />
      <Typography color="textSecondary">Pieces still show at these addresses, so that you can look at them.</Typography>
    </Setting>
  )
}
