import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import MenuItem from '@mui/material/MenuItem'
import TextField from '@mui/material/TextField'
import Typography from '@mui/material/Typography'
import { type FormEvent, useState } from 'react'
import type { Settings } from '../../kinds/settings'
import { api, type Trouble } from '../api'
import { SaveLine } from '../parts/SaveLine'
import { Sheet } from '../parts/Sheet'
import { useUnsaved } from '../parts/unsaved'
import { outdated, setSite, useFixedWords, useSite } from '../queries'
import { paper } from '../theme'

const names = new Intl.DisplayNames('en-GB', { type: 'language' })

// What would not be understood as it stands.
const labels: Record<string, string> = { votes: 'Number of votes', of: '1 of 4', you: 'You (read aloud before an answer)' }
const help: Record<string, string> = { votes: 'One form for each plural of the language, divided by |.' }

/** The language of the site, and the words that pieces say by themselves in each. */
export function Wording() {
  const site = useSite()
  const unsaved = useUnsaved(`wording:${site.id}`, site.settings, site.settings_version)
  const settings = unsaved.value
  const [trouble, setTrouble] = useState<Trouble | null>(null)
  const [saved, setSaved] = useState(false)
  const usual = settings.language || 'en'
  const [open, setOpen] = useState(false)
  const [chosen, setChosen] = useState('')
  const { data: fixed, error } = useFixedWords()
  const put = (change: Partial<Settings>) => {
    setSaved(false)
    unsaved.set(now => ({ ...now, ...change }))
  }
  const lang = chosen || usual
  const own = settings.words?.[lang] ?? {}
  const say = (key: string, text: string) => {
    const { [key]: _, ...rest } = own
    put({ words: { ...settings.words, [lang]: text.trim() ? { ...rest, [key]: text } : rest } })
  }
  const fault = (at: string) => trouble?.faults.find(f => f.at === at)?.message
  const submit = async (e: FormEvent) => {
    e.preventDefault()
    setTrouble(null)
    const words = Object.fromEntries(Object.entries(settings.words ?? {}).filter(([, table]) => Object.keys(table).length))
    try {
      setSite(await api('PUT /sites/:site/settings', { site: site.id }, { body: { version: unsaved.version, settings: { ...settings, words } } }))
      unsaved.discard()
      setSaved(true)
    } catch (e) {
      if ((e as Trouble).status === 409) return void outdated('me')
      setTrouble(e as Trouble)
    }
  }
  const languages = (fixed?.languages ?? [lang]).map(code => [code, names.of(code) ?? code] as const).sort(([, a], [, b]) => a.localeCompare(b))
  const choice = (label: string, value: string, help: string, onChange: (code: string) => void) => (
    <TextField select label={label} value={value} helperText={help} onChange={e => onChange(e.target.value)}>
      {languages.map(([code, name]) => (
        <MenuItem key={code} value={code}>
          {name}
          {settings.words?.[code] && Object.keys(settings.words[code]).length > 0 ? ' (with your own text)' : ''}
        </MenuItem>
      ))}
    </TextField>
  )
  const changed = Object.values(settings.words ?? {}).reduce((n, table) => n + Object.keys(table).length, 0)
  return (
    <Sheet component={'form' as never} onSubmit={submit as never} sx={{ display: 'grid', gap: 1.5, p: '18px 20px 22px' }} aria-label="Language">
      <Typography variant="h2">Language</Typography>
      <Typography color="textSecondary">
        Pieces say a few things by themselves: while an answer is sent, what is wrong with it, how many have voted. They say so in the language of the page (its
        lang attribute), and in this one where a page says none. Dates, numbers and plurals follow.
      </Typography>
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 2, mt: 1, alignItems: 'start' }}>
        {choice('Language of the site', usual, fault('language') ?? 'For pages without a language of their own.', language => put({ language }))}
        <Button variant="outlined" aria-expanded={open} onClick={() => setOpen(!open)} sx={{ justifySelf: 'start', mt: '4px' }}>
          {open ? 'Hide fixed text' : 'Edit fixed text'}
          {!open && changed > 0 ? ` (${changed} changed)` : ''}
        </Button>
      </Box>
      {open && (
        <>
          <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 2 }}>
            {choice('Edit text in', lang, 'Without text of your own it says what stands on the left. Keep what stands in braces.', setChosen)}
          </Box>
          {error && <Typography role="alert">{error.message}</Typography>}
          <Box component="ul" sx={{ listStyle: 'none', m: 0, p: 0 }} aria-label="Fixed text">
            {fixed?.keys.map(key => (
              <Box
                component="li"
                key={key}
                sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 2, alignItems: 'center', py: '6px', borderTop: `1px solid ${paper.line}` }}
              >
                <div>
                  <Typography lang={lang} dir="auto" sx={{ fontSize: 14, overflowWrap: 'anywhere' }}>
                    {fixed.tables[lang][key]}
                  </Typography>
                  {(lang !== 'en' || labels[key]) && (
                    <Typography variant="body2" color="textSecondary">
                      {labels[key] ?? fixed.tables.en[key]}
                    </Typography>
                  )}
                </div>
                <TextField
                  size="small"
                  placeholder="Your own text"
                  value={own[key] ?? ''}
                  onChange={e => say(key, e.target.value)}
                  error={!!fault(`words.${lang}.${key}`)}
                  helperText={fault(`words.${lang}.${key}`) ?? help[key]}
                  slotProps={{ htmlInput: { maxLength: 300, lang, dir: 'auto', 'data-word': key, 'aria-label': labels[key] ?? fixed.tables.en[key] } }}
                />
              </Box>
            ))}
          </Box>
        </>
      )}
      <SaveLine
        unsaved={unsaved}
        saved={saved}
        wrong={trouble && !trouble.faults.length ? trouble.message : trouble ? 'Fix what is marked above.' : undefined}
      />
    </Sheet>
  )
}
