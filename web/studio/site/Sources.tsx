import Box from '@mui/material/Box'
import Typography from '@mui/material/Typography'
import { TextIn } from '../parts/forms/formFields'
import { counted } from '../parts/words/say'
import { outdated, useSite } from '../server/queries'
import { Setting } from './Setting'
import { linesOf, useSettingsForm } from './useSiteForm'

const channels = [
  ['search', 'Search'],
  ['social', 'Social'],
  ['email', 'Email'],
  ['ads', 'Ads'],
] as const

type Hosts = Record<(typeof channels)[number][0], string>

/** Which hosts stand for which source of traffic. */
export function Sources() {
  const { settings } = useSite()
  const { saved, standing, form } = useSettingsForm('sources', {
    from: s => ({ channels: Object.fromEntries(channels.map(([key]) => [key, (s.channels[key] ?? []).join('\n')])) as Hosts }),
    to: values => ({ channels: Object.fromEntries(channels.map(([key]) => [key, linesOf(values.channels[key])])) }),
    done: () => outdated('rehearsal'),
  })
  const named = channels.flatMap(([key, name]) => {
    const n = settings.channels[key]?.length ?? 0
    return n ? [`${counted(n, 'host')} for ${name.toLowerCase()}`] : []
  })
  return (
    <Setting
      id="sources"
      name="Traffic sources"
      state={named.length ? `${named.join(', ')}, besides utm_medium in links.` : 'Told by utm_medium in links, and by what hosts are called.'}
      form={{ standing, saved }}
    >
      <Typography color="textSecondary">
        Links with utm_medium name their source. For other visits, the referring host decides: list hosts here, one per line.
      </Typography>
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 1.5 }}>
        {channels.map(([key, name]) => (
          <TextIn key={key} control={form.control} name={`channels.${key}`} label={name} multiline minRows={2} />
        ))}
      </Box>
    </Setting>
  )
}
