import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import MenuItem from '@mui/material/MenuItem'
import TextField from '@mui/material/TextField'
import Typography from '@mui/material/Typography'
import { useState } from 'react'
import { useWatch } from 'react-hook-form'
import { paper } from '../parts/look/theme'
import { counted } from '../parts/words/say'
import { useFixedWords, useSite } from '../server/queries'
import { Setting } from './Setting'
import { useSettingsForm } from './useSiteForm'

const names = new Intl.DisplayNames('en-GB', { type: 'language' })

// What would not be understood as it stands.
const labels: Record<string, string> = { votes: 'Number of votes', of: '1 of 4', you: 'You (read aloud before an answer)' }
const help: Record<string, string> = { votes: 'One form for each plural of the language, divided by |.' }

/** The language of the site, and the words that pieces say by themselves in each. */
export function Language() {
  const site = useSite()
  const { saved, standing, form } = useSettingsForm('language', {
    from: s => ({ language: s.language || 'en', words: s.words ?? {} }),
    to: ({ language, words }) => ({ language, words: Object.fromEntries(Object.entries(words).filter(([, table]) => Object.keys(table).length)) }),
  })
  const [usual, words] = useWatch({ control: form.control, name: ['language', 'words'] })
  const [open, setOpen] = useState(false)
  const [chosen, setChosen] = useState('')
  const { data: fixed, error } = useFixedWords()
  const lang = chosen || usual
  const own = words[lang] ?? {}
  const say = (key: string, text: string) => {
    const { [key]: _, ...rest } = own
    form.setValue('words', { ...words, [lang]: text.trim() ? { ...rest, [key]: text } : rest }, { shouldDirty: true })
  }
  const wrong = (key: string) => form.formState.errors.words?.[lang]?.[key]?.message
  const languages = (fixed?.languages ?? [lang]).map(code => [code, names.of(code) ?? code] as const).sort(([, a], [, b]) => a.localeCompare(b))
  const choice = (label: string, value: string, help: string, onChange: (code: string) => void) => (
    <TextField select label={label} value={value} helperText={help} onChange={e => onChange(e.target.value)}>
      {languages.map(([code, name]) => (
        <MenuItem key={code} value={code}>
          {name}
          {words[code] && Object.keys(words[code]).length > 0 ? ' (with your own text)' : ''}
        </MenuItem>
      ))}
    </TextField>
  )
  const inForce = Object.values(site.settings.words ?? {}).reduce((n, table) => n + Object.keys(table).length, 0)
  const changed = Object.values(words).reduce((n, table) => n + Object.keys(table).length, 0)
  return (
    <Setting
      id="language"
      name="Language"
      state={`${names.of(site.settings.language || 'en')}, for pages that say none${inForce ? `; ${counted(inForce, 'text')} of your own` : ''}.`}
      form={{ standing, saved }}
    >
      <Typography color="textSecondary">
        Pieces say a few things by themselves: while an answer is sent, what is wrong with it, how many have voted. They say so in the language of the page (its
        lang attribute), and in this one where a page says none. Dates, numbers and plurals follow.
      </Typography>
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 2, mt: 1, alignItems: 'start' }}>
        {choice('Language of the site', usual, form.formState.errors.language?.message ?? 'For pages without a language of their own.', language =>
          form.setValue('language', language, { shouldDirty: true }),
        )}
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
                  error={!!wrong(key)}
                  helperText={wrong(key) ?? help[key]}
                  slotProps={{ htmlInput: { maxLength: 300, lang, dir: 'auto', 'data-word': key, 'aria-label': labels[key] ?? fixed.tables.en[key] } }}
                />
              </Box>
            ))}
          </Box>
        </>
      )}
    </Setting>
  )
}
