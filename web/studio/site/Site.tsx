import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import TextField from '@mui/material/TextField'
import Typography from '@mui/material/Typography'
import { type FormEvent, useState } from 'react'
import { api, type Trouble } from '../api'
import { SaveLine } from '../parts/SaveLine'
import { Sheet } from '../parts/Sheet'
import { Title } from '../parts/Title'
import { useUnsaved } from '../parts/unsaved'
import { outdated, setSite, useSite } from '../queries'
import { ink } from '../theme'
import { Frequency } from './Frequency'
import { Health } from './Health'
import { Measuring } from './Measuring'
import { SitePage } from './SitePage'
import { Wording } from './Wording'

/** The script that installs Gobbet on the site, and what is set for the whole site. */
export function Site() {
  const site = useSite()
  const line = `<script async src="${location.origin}/v1/gobbet.js" data-site="${site.key}"></script>`
  const [copied, setCopied] = useState(false)
  const unsaved = useUnsaved(`site:${site.id}`, { name: site.name, zone: site.zone, origins: site.origins.join('\n') }, site.version)
  const { name, zone, origins } = unsaved.value
  const put = (change: Partial<typeof unsaved.value>) => unsaved.set(now => ({ ...now, ...change }))
  const [trouble, setTrouble] = useState<Trouble | null>(null)
  const [saved, setSaved] = useState(false)
  const fault = (at: string) => trouble?.faults.find(f => f.at.startsWith(at))
  const given = origins
    .split('\n')
    .map(o => o.trim())
    .filter(Boolean)
  const submit = async (e: FormEvent) => {
    e.preventDefault()
    setTrouble(null)
    try {
      setSite(await api('PUT /sites/:site', { site: site.id }, { body: { version: unsaved.version, name, zone, origins: given } }))
      unsaved.discard()
      setSaved(true)
    } catch (e) {
      if ((e as Trouble).status === 409) return void outdated('me')
      setTrouble(e as Trouble)
    }
  }
  const wrongOrigin = fault('origins')
  const wrongLine = wrongOrigin?.at.match(/\[(\d+)\]/)?.[1]
  return (
    <SitePage>
      <Title of="Site settings" />
      <Sheet bitten>
        <Typography variant="h2">Install the script</Typography>
        <Typography color="textSecondary" sx={{ mb: 1.5 }}>
          Paste this line once into every page, in the head or before {'</body>'}. Pieces you launch then show by themselves.
        </Typography>
        <Box sx={{ display: 'flex', gap: 1.5, alignItems: 'center', background: ink[1], color: '#f2eaf2', borderRadius: '8px', p: '12px 14px' }}>
          <Box component="code" sx={{ flex: 1, fontSize: 13, overflowWrap: 'anywhere', fontFamily: 'ui-monospace, monospace' }}>
            {line}
          </Box>
          <Button
            sx={{ color: '#fff', border: '1px solid #6a597a', flex: 'none' }}
            onClick={async () => {
              await navigator.clipboard.writeText(line)
              setCopied(true)
            }}
          >
            {copied ? '✓ Copied' : 'Copy'}
          </Button>
        </Box>
      </Sheet>
      <Sheet component={'form' as never} onSubmit={submit as never} sx={{ display: 'grid', gap: 2, p: '18px 20px 22px' }} onChange={() => setSaved(false)}>
        <Typography variant="h2">Site</Typography>
        <TextField
          label="Name"
          value={name}
          onChange={e => put({ name: e.target.value })}
          error={!!fault('name')}
          helperText={fault('name')?.message}
          slotProps={{ htmlInput: { maxLength: 120 } }}
        />
        <TextField
          label="Domains, one per line"
          multiline
          minRows={3}
          value={origins}
          onChange={e => put({ origins: e.target.value })}
          error={!!wrongOrigin}
          helperText={
            wrongOrigin
              ? `${wrongLine ? `“${given[+wrongLine]}” ` : ''}${wrongOrigin.message}`
              : 'Only pages of these domains show pieces, even with the script installed.'
          }
        />
        <TextField
          label="Time zone"
          value={zone}
          onChange={e => put({ zone: e.target.value })}
          error={!!fault('zone')}
          helperText={fault('zone')?.message ?? 'Days in reports and times in rules use this zone.'}
          slotProps={{ htmlInput: { maxLength: 60, list: 'zones' } }}
        />
        <datalist id="zones">
          {Intl.supportedValuesOf('timeZone').map(z => (
            <option key={z} value={z} />
          ))}
        </datalist>
        <SaveLine unsaved={unsaved} saved={saved} wrong={trouble && !trouble.faults.length ? trouble.message : undefined} />
      </Sheet>
      <Measuring />
      <Frequency />
      <Wording />
      <Health />
    </SitePage>
  )
}
