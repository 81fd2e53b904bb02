import Box from '@mui/material/Box'
import Typography from '@mui/material/Typography'
import { Loaded } from '../parts/look/Loaded'
import { apricot, ink } from '../parts/look/theme'
import { counted } from '../parts/words/say'
import { moment } from '../parts/words/time'
import { useHealth } from '../server/queries'
import { Setting } from './Setting'

/** How the site is connected, and whether anything is wrong with it. */
export function Connection() {
  const health = useHealth()
  const { data } = health
  if (!data)
    return (
      <Setting id="connection" name="Connection" state={health.isError ? 'It could not be looked at.' : 'Looking…'} opened={health.isError}>
        <Loaded query={health} what="the state of the connection">
          {() => null}
        </Loaded>
      </Setting>
    )
  const failed = data.refused.find(r => r.kind === 'drawing')
  const refused = data.refused.find(r => r.kind === 'data_name')
  const troubles = data.jobs.filter(j => j.error || j.late).length + [data.proxy, failed, refused].filter(Boolean).length
  return (
    <Setting
      id="connection"
      name="Connection"
      state={troubles ? `${counted(troubles, 'problem')} to look at.` : 'Visitors’ addresses are seen correctly, and the work in the background runs.'}
      well={!troubles}
      opened={troubles > 0}
    >
      {data.proxy && (
        <Warning>
          All visitors seem to come from one address, {data.proxy}: a proxy that Gobbet does not know about. Limits per visitor then count all of them together,
          and countries are unknown. Whoever runs Gobbet should start it with <code>--proxy {data.proxy}</code>.
        </Warning>
      )}
      {failed && (
        <Warning>
          {failed.times === 1 ? 'Once' : `${failed.times.toLocaleString('en')} times`} in the last {data.refused_days} days a piece could not be drawn, and
          showed nothing. The latest was “{failed.example}”, {moment(failed.last_at)}. Open that piece in Compose and look for what it cannot draw.
        </Warning>
      )}
      {refused && (
        <Warning>
          {counted(refused.times, 'value')} of the site’s own data {refused.times === 1 ? 'was' : 'were'} not recorded in the last {data.refused_days} days:
          there are already {data.most_data_names} names. The latest was “{refused.example}”, {moment(refused.last_at)}. Remove names you do not need, or send
          fewer.
        </Warning>
      )}
      {data.jobs
        .filter(j => j.error || j.late)
        .map(j => (
          <Warning key={j.name}>
            {j.error
              ? `“${j.name}” has failed since ${moment(j.failed_at!)}: ${j.error}. It is tried again by itself; whoever runs Gobbet can find out more in its log.`
              : `“${j.name}” ${j.ended_at ? `ran last ${moment(j.ended_at)}, and should have run since` : 'has begun, and never ended'}. Whoever runs Gobbet should look whether it is running.`}
          </Warning>
        ))}
      {data.jobs.length > 0 && (
        <Box>
          <Typography variant="h3" sx={{ mb: '4px' }}>
            Background jobs
          </Typography>
          <Box component="dl" sx={{ m: 0, display: 'grid', gridTemplateColumns: 'auto 1fr', gap: '3px 14px', fontSize: 13.5 }}>
            {data.jobs.map(j => (
              <Box key={j.name} sx={{ display: 'contents' }}>
                <Box component="dt">{j.name[0].toUpperCase() + j.name.slice(1)}</Box>
                <Box component="dd" sx={{ m: 0, color: ink[2] }}>
                  {j.ended_at ? `last run ${moment(j.ended_at)}` : 'not run yet'}
                  {j.error ? ', failed' : ''}
                </Box>
              </Box>
            ))}
          </Box>
        </Box>
      )}
    </Setting>
  )
}

const Warning = ({ children }: { children: React.ReactNode }) => (
  <Box role="status" sx={{ background: apricot.wash, color: apricot.ink, borderRadius: '8px', p: '10px 14px', fontWeight: 550 }}>
    {children}
  </Box>
)
