import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import { useState } from 'react'
import { ink } from '../parts/look/theme'
import { toast } from '../parts/look/toast'
import { ago } from '../parts/words/time'
import { useHealth, useSite } from '../server/queries'
import { Setting } from './Setting'

/** The line that installs Gobbet on the site, and whether pages have it. */
export function Install() {
  const site = useSite()
  const { data } = useHealth()
  const [copied, setCopied] = useState(false)
  const line = `<script async src="${location.origin}/v1/gobbet.js" data-site="${site.key}"></script>`
  const copy = () =>
    navigator.clipboard.writeText(line).then(
      () => setCopied(true),
      () => toast('The browser does not let it be copied. Select the line and copy it.', true),
    )
  const state = !data
    ? 'Looking for page views…'
    : data.seen_at
      ? `Installed. The latest page view came ${ago(data.seen_at)}.`
      : site.settings.record
        ? 'No page views yet: paste the line below into your pages.'
        : 'Page views are not recorded, so it cannot be told whether it is installed.'
  return (
    <Setting id="install" name="Install the script" state={state} well={data && !!data.seen_at} opened={data && !data.seen_at}>
      <Typography color="textSecondary">
        Paste this line once into every page, in the head or before {'</body>'}. Pieces you launch then show by themselves.
      </Typography>
      <Box sx={{ display: 'flex', gap: 1.5, alignItems: 'center', background: ink[1], color: '#f2eaf2', borderRadius: '8px', p: '12px 14px' }}>
        <Box component="code" sx={{ flex: 1, fontSize: 13, overflowWrap: 'anywhere', fontFamily: 'ui-monospace, monospace' }}>
          {line}
        </Box>
        <Button sx={{ color: '#fff', border: '1px solid #6a597a', flex: 'none' }} onClick={copy}>
          {copied ? '✓ Copied' : 'Copy'}
        </Button>
      </Box>
    </Setting>
  )
}
