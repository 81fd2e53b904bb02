import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import { api, type Trouble } from '../api'
import { Sheet } from '../parts/Sheet'
import { counted, moment } from '../parts/say'
import { tell } from '../parts/Told'
import { client, useHealth, useSite } from '../queries'
import { apricot, ink, paper } from '../theme'

/** How the site is wired up: what is in the way, and which data of its own it records. */
export function Health() {
  const site = useSite().id
  const { data, error, refetch } = useHealth()
  if (error)
    return (
      <Sheet aria-label="Connection">
        <Typography variant="h2">Connection</Typography>
        <Typography role="alert">
          {error.message} <Button onClick={() => refetch()}>Try again</Button>
        </Typography>
      </Sheet>
    )
  if (!data) return null
  const remove = async (name: string) => {
    try {
      await api('DELETE', `/sites/${site}/data-names/${encodeURIComponent(name)}`)
      client.invalidateQueries({ queryKey: ['health', site] })
    } catch (e) {
      tell((e as Trouble).message, true)
    }
  }
  const refused = data.refused.find(r => r.kind === 'data_name')
  return (
    <Sheet aria-label="Connection" sx={{ display: 'grid', gap: 1.5, p: '18px 20px 22px' }}>
      <Typography variant="h2">Connection</Typography>
      {data.proxy ? (
        <Warning>
          All visitors seem to come from one address, {data.proxy}: a proxy that Gobbet was not told about. Limits on how much one visitor may send then hold
          for all of them together, and countries cannot be told. Whoever runs Gobbet should start it with <code>--proxy {data.proxy}</code>.
        </Warning>
      ) : (
        <Typography color="textSecondary">Visitors’ addresses are seen as they are.</Typography>
      )}
      {refused && (
        <Warning>
          {counted(refused.times, 'value')} of the site’s own data {refused.times === 1 ? 'was' : 'were'} not recorded in the last {data.refused_days} days:
          there are {data.most_data_names} names already. The latest was “{refused.example}”, {moment(refused.last_at)}. Remove names that are not needed, or
          have your pages send fewer.
        </Warning>
      )}
      <Box>
        <Typography variant="h3" sx={{ mb: '4px' }}>
          Recorded data
        </Typography>
        <Typography color="textSecondary" sx={{ mb: 1 }}>
          {data.data_names.length
            ? `${data.data_names.length} of ${data.most_data_names} names that your pages send data under. Conditions and rehearsals can use each.`
            : 'What your pages tell with gobbet.push({ data: … }) is listed here, for conditions and rehearsals to use.'}
        </Typography>
        <Box component="ul" sx={{ listStyle: 'none', m: 0, p: 0, display: 'flex', flexWrap: 'wrap', gap: '6px' }}>
          {data.data_names.map(name => (
            <Box
              component="li"
              key={name}
              sx={{
                display: 'flex',
                alignItems: 'center',
                gap: '2px',
                border: `1px solid ${paper.line}`,
                borderRadius: '6px',
                pl: '9px',
                color: ink[1],
                fontSize: 13,
              }}
            >
              {name}
              <Button size="small" aria-label={`Remove ${name}`} onClick={() => remove(name)} sx={{ minWidth: 0, px: '8px', fontSize: 12.5 }}>
                Remove
              </Button>
            </Box>
          ))}
        </Box>
      </Box>
    </Sheet>
  )
}

const Warning = ({ children }: { children: React.ReactNode }) => (
  <Box role="status" sx={{ background: apricot.wash, color: apricot.ink, borderRadius: '8px', p: '10px 14px', fontWeight: 550 }}>
    {children}
  </Box>
)
