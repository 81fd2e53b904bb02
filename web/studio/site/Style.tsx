import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import ButtonBase from '@mui/material/ButtonBase'
import MenuItem from '@mui/material/MenuItem'
import OutlinedInput from '@mui/material/OutlinedInput'
import Select from '@mui/material/Select'
import Switch from '@mui/material/Switch'
import Typography from '@mui/material/Typography'
import { useMemo, useRef, useState } from 'react'
import { Link } from 'react-router'
import type { Drawing } from '../../kinds/piece'
import type { SiteInfo } from '../../kinds/studio'
import type { Font, Kit } from '../../kinds/style'
import { api, type Trouble } from '../api'
import { fonts } from '../compose/fonts'
import { contrast, NumberField } from '../parts/fields'
import { Miniature } from '../parts/Miniature'
import { PaintField } from '../parts/Paint'
import { Sheet } from '../parts/Sheet'
import { StaleLine } from '../parts/StaleLine'
import { counted } from '../parts/say'
import { StateTag } from '../parts/Tag'
import { tell } from '../parts/Told'
import { useUnsaved } from '../parts/unsaved'
import { client, setSite, useKitUses, useSite } from '../queries'
import { apricot, brick, ink, moss, paper } from '../theme'
import { colorsIn } from './logo'
import { SitePlace } from './Places'

const always = ['background', 'ink', 'accent', 'accent_ink', 'soft']
const plainKit: Kit = { colors: [], text: 'sans', heading: 'sans', corners: 0, button: { corners: 0, weight: 600 }, field: { corners: 0 } }

/** The site's style: changed once, and every piece that follows it changes with it. */
export function Style() {
  const site = useSite()
  const uses = useKitUses().data ?? []
  const unsaved = useUnsaved(`kit:${site.id}`, site.kit, site.kit_version)
  const { value: kit, changed } = unsaved
  const [trouble, setTrouble] = useState<Trouble | null>(null)
  const [logo, setLogo] = useState<string[]>([])
  const [busy, setBusy] = useState(false)
  const file = useRef<HTMLInputElement>(null)
  const set = (how: (k: Kit) => void) =>
    unsaved.set(k => {
      const next = structuredClone(k)
      how(next)
      return next
    })
  const color = (id: string) => kit.colors.find(c => c.id === id)?.value ?? '#000000'
  const fault = (at: string) => trouble?.faults.find(f => f.at.startsWith(at))?.message
  const save = async () => {
    setBusy(true)
    try {
      setSite(await api<SiteInfo>('PUT', `/sites/${site.id}/kit`, { version: unsaved.version, kit }))
      unsaved.discard()
      setTrouble(null)
      for (const key of ['kit-uses', 'starts', 'board']) client.invalidateQueries({ queryKey: [key] })
      const live = uses.filter(u => u.state === 'live').length
      tell(live ? `Saved. ${counted(live, 'live piece')} ${live === 1 ? 'follows' : 'follow'} from now on.` : 'Saved.')
    } catch (e) {
      if ((e as Trouble).status === 409) await client.invalidateQueries({ queryKey: ['me'] })
      else setTrouble(e as Trouble)
    }
    setBusy(false)
  }
  const addColor = (value: string) =>
    set(k => {
      let n = 1
      while (k.colors.some(c => c.id === `color${n}`)) n++
      k.colors.push({ id: `color${n}`, name: `Colour ${n}`, value })
    })
  const pairs = [
    ['Words on the background', 'ink', 'background'],
    ['Words on the wash', 'ink', 'soft'],
    ['Words on buttons', 'accent_ink', 'accent'],
    ['Accent on the background', 'accent', 'background'],
  ]
  return (
    <SitePlace wide>
      <Box sx={{ display: 'grid', gridTemplateColumns: 'minmax(0, 1fr) 430px', gap: '18px', alignItems: 'start' }}>
        <Box sx={{ display: 'grid', gap: '18px' }}>
          <Sheet>
            <Typography variant="h2" sx={{ mb: 1 }}>
              Colours
            </Typography>
            <Box sx={{ display: 'grid', gap: '8px' }}>
              {kit.colors.map((c, i) => {
                const used = uses.filter(u => u.colors.includes(c.id))
                return (
                  <Box key={c.id} sx={{ display: 'grid', gridTemplateColumns: '46px 180px 1fr auto', gap: '12px', alignItems: 'center' }}>
                    <PaintField label={c.name} value={c.value} kit={plainKit} near={logo} onChange={v => set(k => void (k.colors[i].value = v))} />
                    <OutlinedInput
                      size="small"
                      value={c.name}
                      onChange={e => set(k => void (k.colors[i].name = e.target.value))}
                      error={!!fault(`colors[${i}]`)}
                      inputProps={{ 'aria-label': `Name of ${c.id}`, maxLength: 60 }}
                    />
                    <Box component="span" sx={{ fontSize: 12.5, color: ink[2] }}>
                      {c.value} ·{' '}
                      {{ background: 'behind words', ink: 'words', accent: 'buttons', accent_ink: 'on buttons', soft: 'boxes and washes' }[c.id] ?? 'your own'}
                      {used.length > 0 && ` · in ${counted(used.length, 'piece')}`}
                    </Box>
                    {!always.includes(c.id) && (
                      <Button
                        size="small"
                        disabled={used.length > 0}
                        title={used.length ? 'Pieces use it' : ''}
                        onClick={() => set(k => void k.colors.splice(i, 1))}
                        sx={{ fontSize: 12.5, py: '2px' }}
                      >
                        Take out
                      </Button>
                    )}
                  </Box>
                )
              })}
            </Box>
            {fault('colors') && (
              <Typography role="alert" variant="body2" sx={{ color: brick.main, fontWeight: 600, mt: 1 }}>
                {fault('colors')}
              </Typography>
            )}
            <Box sx={{ display: 'flex', gap: 1, mt: 2, alignItems: 'center', flexWrap: 'wrap' }}>
              <Button variant="outlined" size="small" onClick={() => addColor('#888888')} disabled={kit.colors.length >= 24}>
                Another colour
              </Button>
              <Button variant="outlined" size="small" onClick={() => file.current?.click()}>
                Pick colours from a logo
              </Button>
              <input
                ref={file}
                type="file"
                hidden
                accept="image/*"
                aria-label="Logo"
                onChange={async e => {
                  const picked = e.target.files?.[0]
                  if (!picked) return
                  const found = await colorsIn(picked)
                  setLogo(found)
                  if (!found.length) tell('No colours could be read from this file. Use PNG, JPEG or WebP.', true)
                  if (file.current) file.current.value = ''
                }}
              />
              {logo.map(c => (
                <ButtonBase
                  key={c}
                  aria-label={`Add ${c}`}
                  title={`Add ${c}`}
                  onClick={() => addColor(c)}
                  style={{ background: c }}
                  sx={{ width: 26, height: 26, borderRadius: '6px', boxShadow: 'inset 0 0 0 1px rgb(0 0 0 / .16)' }}
                />
              ))}
            </Box>
            <Box sx={{ mt: 2, pt: 1.5, borderTop: `1px solid ${paper.line}`, display: 'grid', gridTemplateColumns: '1fr 1fr', gap: '4px 24px', fontSize: 13 }}>
              {pairs.map(([name, a, b]) => {
                const ratio = Math.floor(contrast(color(a), color(b)) * 10) / 10
                return (
                  <Box key={name} sx={{ display: 'flex', justifyContent: 'space-between' }}>
                    {name}
                    <Box component="b" sx={{ color: ratio >= 4.5 ? moss.ink : apricot.ink }}>
                      {ratio.toFixed(1)} : 1 {ratio >= 4.5 ? '✓' : '! too little'}
                    </Box>
                  </Box>
                )
              })}
            </Box>
          </Sheet>
          <Sheet>
            <Typography variant="h2" sx={{ mb: 1 }}>
              Letters and shapes
            </Typography>
            <Box sx={{ display: 'grid', gridTemplateColumns: '150px 1fr 150px 1fr', gap: '10px 14px', alignItems: 'center', fontSize: 13.5 }}>
              {(['heading', 'text'] as const).map(k => (
                <Labelled key={k} name={k === 'heading' ? 'Headings' : 'Text'}>
                  <Select
                    value={kit[k]}
                    onChange={e => set(x => void (x[k] = e.target.value as Font))}
                    inputProps={{ 'aria-label': k === 'heading' ? 'Headings' : 'Text' }}
                    fullWidth
                  >
                    {fonts
                      .filter(([f]) => f[0] !== '@')
                      .map(([f, name]) => (
                        <MenuItem key={f} value={f}>
                          {name}
                        </MenuItem>
                      ))}
                  </Select>
                </Labelled>
              ))}
              <Labelled name="Corners of frames">
                <NumberField label="Corners of frames" value={kit.corners} unit="px" min={0} max={64} onChange={n => set(k => void (k.corners = n))} />
              </Labelled>
              <Labelled name="Corners of buttons">
                <NumberField
                  label="Corners of buttons"
                  value={kit.button.corners}
                  unit="px"
                  min={0}
                  max={40}
                  onChange={n => set(k => void (k.button.corners = n))}
                />
              </Labelled>
              <Labelled name="Weight of buttons">
                <NumberField label="Weight of buttons" value={kit.button.weight} min={400} max={800} onChange={n => set(k => void (k.button.weight = n))} />
              </Labelled>
              <Labelled name="Corners of fields">
                <NumberField
                  label="Corners of fields"
                  value={kit.field.corners}
                  unit="px"
                  min={0}
                  max={40}
                  onChange={n => set(k => void (k.field.corners = n))}
                />
              </Labelled>
              <Labelled name="Buttons in capitals">
                <Switch
                  checked={!!kit.button.capital}
                  onChange={e => set(k => void (k.button.capital = e.target.checked || undefined))}
                  slotProps={{ input: { 'aria-label': 'Buttons in capitals' } }}
                />
              </Labelled>
              <Labelled name="Fields as a line">
                <Switch
                  checked={!!kit.field.line}
                  onChange={e => set(k => void (k.field.line = e.target.checked || undefined))}
                  slotProps={{ input: { 'aria-label': 'Fields as a line' } }}
                />
              </Labelled>
            </Box>
          </Sheet>
          {trouble && !trouble.faults.length && (
            <Typography role="alert" sx={{ color: brick.main, fontWeight: 600 }}>
              {trouble.message}
            </Typography>
          )}
          <StaleLine unsaved={unsaved} />
          <Box sx={{ display: 'flex', gap: 1 }}>
            <Button variant="contained" disabled={!changed || busy || unsaved.stale} onClick={save}>
              Save for the whole site
            </Button>
            <Button variant="outlined" disabled={!changed} onClick={unsaved.discard}>
              Discard changes
            </Button>
          </Box>
        </Box>
        <Sheet bitten>
          <Typography variant="h2">{uses.length ? `${counted(uses.length, 'piece')} ${uses.length === 1 ? 'follows' : 'follow'}` : 'What follows'}</Typography>
          <Typography variant="body2" color="textSecondary" sx={{ mb: 1.5 }}>
            {uses.length ? 'As they will look. Live ones change for visitors when you save.' : 'No piece follows the style yet. New ones do, from their start.'}
          </Typography>
          <Box sx={{ display: 'grid', gap: '14px' }}>
            {uses.slice(0, 8).map(u => (
              <Box key={u.id}>
                <Box sx={{ borderRadius: '8px', overflow: 'hidden', border: `1px solid ${paper.line}` }}>
                  <Restyled drawing={u.drawing} kit={kit} />
                </Box>
                <Box sx={{ display: 'flex', justifyContent: 'space-between', mt: '5px', fontSize: 13 }}>
                  <Link to={`/pieces/${u.id}/compose`}>{u.name}</Link>
                  <StateTag state={u.state} />
                </Box>
              </Box>
            ))}
          </Box>
        </Sheet>
      </Box>
    </SitePlace>
  )
}

function Restyled({ drawing, kit }: { drawing: Drawing; kit: Kit }) {
  const drawn = useMemo(() => ({ ...drawing, kit }), [drawing, kit])
  return <Miniature drawing={drawn} width={386} height={190} lazy />
}

const Labelled = ({ name, children }: { name: string; children: React.ReactNode }) => (
  <>
    <Box component="span" sx={{ color: ink[2] }}>
      {name}
    </Box>
    <div>{children}</div>
  </>
)
