import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import type { Settings } from '../../kinds/settings'
import { TextIn } from '../parts/forms/formFields'
import { confirm } from '../parts/look/Confirm'
import { Loaded } from '../parts/look/Loaded'
import { toast } from '../parts/look/toast'
import { api, type Trouble } from '../server/api'
import { outdated, useCalled, useHealth, useSite } from '../server/queries'
import { Setting } from './Setting'
import { useSettingsForm } from './useSiteForm'

/** Which data of the site's own is recorded with visits, and what it is called. */
export function SiteData() {
  const health = useHealth()
  if (health.data) return <Names names={health.data.data_names} most={health.data.most_data_names} />
  return (
    <Setting id="data" name="Site data" state={health.isError ? 'It could not be looked at.' : 'Looking…'}>
      <Loaded query={health} what="the site’s data">
        {() => null}
      </Loaded>
    </Setting>
  )
}

// A dot in the name of a field would part it, and some names, such as constructor, are those of every object.
const fieldOf = (name: string) => `·${name.replaceAll('.', '·')}`
const nameOf = (field: string) => field.slice(1).replaceAll('·', '.')

function Names({ names: recorded, most }: { names: string[]; most: number }) {
  const { id: site, settings } = useSite()
  const called = useCalled()
  const all = ({ data = {} }: Settings) => [...new Set([...recorded, ...Object.keys(data)])].sort()
  const names = all(settings)
  const { saved, standing, form } = useSettingsForm('data', {
    from: s => ({
      data: Object.fromEntries(all(s).map(name => [fieldOf(name), new Map(Object.entries(s.data ?? {})).get(name) ?? ''])) as Record<string, string>,
    }),
    to: values => ({ data: Object.fromEntries(Object.entries(values.data).map(([field, says]) => [nameOf(field), says])) }),
    at: place => place.replace(/^data\.(.+)/, (_, name) => `data.${fieldOf(name)}`),
    done: () => {
      for (const key of ['piece', 'board', 'reaches']) outdated(key, site)
    },
  })
  const forget = async (name: string) => {
    try {
      await api('DELETE /sites/:site/data-names/:name', { site, name })
      outdated('health', site)
    } catch (e) {
      toast((e as Trouble).message, true)
    }
  }
  const remove = (name: string) =>
    confirm({
      title: `Stop recording “${called(name) ?? name}”?`,
      text: 'Visits recorded from now on do not have it. It is recorded again if your pages go on sending it.',
      verb: 'Remove',
      run: () => forget(name),
    })
  const said = names.map(name => called(name) ?? name)
  return (
    <Setting
      id="data"
      name="Site data"
      state={names.length ? `${names.length} of ${most} names: ${said.slice(0, 6).join(', ')}${said.length > 6 ? '…' : ''}.` : 'None is sent yet.'}
      form={names.length ? { standing, saved } : undefined}
    >
      <Typography color="textSecondary">
        Data that your pages send with gobbet.push({'{ data: … }'}) is listed here. Conditions and rehearsals can use it, by the name you give it.
      </Typography>
      <Box component="ul" sx={{ listStyle: 'none', m: 0, p: 0, display: 'grid', gap: '10px' }}>
        {names.map(name => (
          <Box component="li" key={name} sx={{ display: 'flex', alignItems: 'flex-start', gap: '8px' }}>
            <TextIn
              control={form.control}
              name={`data.${fieldOf(name)}`}
              label={name}
              max={60}
              placeholder="What it is called in conditions"
              sx={{ flex: 1 }}
            />
            {recorded.includes(name) && (
              <Button size="small" aria-label={`Remove ${name}`} onClick={() => remove(name)} sx={{ fontSize: 12.5 }}>
                Remove
              </Button>
            )}
          </Box>
        ))}
      </Box>
    </Setting>
  )
}
