import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import ButtonBase from '@mui/material/ButtonBase'
import MenuItem from '@mui/material/MenuItem'
import OutlinedInput from '@mui/material/OutlinedInput'
import Select from '@mui/material/Select'
import Switch from '@mui/material/Switch'
import Typography from '@mui/material/Typography'
import { useMemo, useRef, useState } from 'react'
import { useWatch } from 'react-hook-form'
import { Link } from 'react-router'
import type { Drawing } from '../../kinds/piece'
import type { Font, Kit } from '../../kinds/style'
import { fonts } from '../design/fonts'
import { ColourField } from '../parts/forms/ColourField'
import { contrast } from '../parts/forms/contrast'
import { NumberField } from '../parts/forms/fields'
import { LeaveGuard } from '../parts/forms/LeaveGuard'
import { StaleLine } from '../parts/forms/StaleLine'
import { agreed } from '../parts/look/Confirm'
import { LoadError } from '../parts/look/Loaded'
import { Sheet } from '../parts/look/Sheet'
import { StateTag } from '../parts/look/Tag'
import { Title } from '../parts/look/Title'
import { apricot, brick, ink, moss, paper } from '../parts/look/theme'
import { toast } from '../parts/look/toast'
import { Miniature } from '../parts/pages/Miniature'
import { count, counted } from '../parts/words/say'
import { api } from '../server/api'
import { outdated, useAddress, useKitUses, useSite } from '../server/queries'
import { colorsIn } from './logo'
import { SitePage } from './SitePage'
import { useSiteForm } from './useSiteForm'

const always = ['background', 'ink', 'accent', 'accent_ink', 'soft']
const manyLive = 3 // live pieces; so many are not changed at once without a question

const sure = (live: number) =>
  agreed({
    title: `Change ${counted(live, 'live piece')} at once?`,
    text: 'All live pieces that follow the style kit change for visitors within a second. You can undo it.',
    verb: 'Save and change them',
    harmless: true,
  })

const plainKit: Kit = { colors: [], text: 'sans', heading: 'sans', corners: 0, button: { corners: 0, weight: 600 }, field: { corners: 0 } }

/** The style kit: what is changed here changes in every piece that follows it. */
export function Style() {
  const site = useSite()
  const query = useKitUses()
  const uses = query.data ?? []
  const at = useAddress()
  const { saved, standing, form } = useSiteForm<Kit>('kit', {
    of: s => ({ values: s.kit, version: s.kit_version }),
    save: (id, version, kit) => api('PUT /sites/:site/kit', { site: id }, { body: { version: Number(version), kit } }),
  })
  const kit = useWatch({ control: form.control }) as Kit
  const { changed, busy } = standing
  const [logo, setLogo] = useState<string[]>([])
  const file = useRef<HTMLInputElement>(null)
  const set = (how: (k: Kit) => void) =>
    saved.edit(k => {
      const next = structuredClone(k)
      how(next)
      return next
    })
  const liveUses = uses.filter(u => u.state === 'live').length
  const color = (id: string) => kit.colors.find(c => c.id === id)?.value ?? '#000000'
  const { errors } = form.formState
  const wrongColor =
    errors.colors?.message ??
    kit.colors.map((_, i) => errors.colors?.[i]?.value?.message ?? errors.colors?.[i]?.name?.message ?? errors.colors?.[i]?.message).find(Boolean)
  const save = async () => {
    const before = site.kit
    if (liveUses >= manyLive && !(await sure(liveUses))) return false
    const done = await put()
    const undo = {
      name: 'Undo',
      run: () => {
        saved.edit(() => before)
        put().then(back => back && toast('The style kit is as it was before.'))
      },
    }
    if (done) toast(liveUses ? `Saved, also in ${counted(liveUses, 'live piece')}.` : 'Saved.', false, undo)
    return done
  }
  const put = async () => {
    const done = await saved.submit()
    if (done) for (const key of ['kit-uses', 'templates', 'board']) outdated(key, site.id)
    return done
  }
  const addColor = (value: string) =>
    set(k => {
      let n = 1
      while (k.colors.some(c => c.id === `color${n}`)) n++
      k.colors.push({ id: `color${n}`, name: `Colour ${n}`, value })
    })
  const pairs = [
    ['Text on background', 'ink', 'background'],
    ['Text on boxes', 'ink', 'soft'],
    ['Button text on buttons', 'accent_ink', 'accent'],
    ['Buttons on background', 'accent', 'background'],
  ]
  return (
    <SitePage wide>
      <Title of="Style kit" />
      <LeaveGuard unsaved={changed ? 'the style kit' : ''} save={save} />
      {query.isError && <LoadError what="the pieces that follow" error={query.error} retry={query.refetch} />}
      <Box sx={{ display: 'grid', gridTemplateColumns: 'minmax(0, 1fr) 430px', gap: '18px', alignItems: 'start' }}>
        <Box sx={{ display: 'grid', gap: '18px' }}>
          <StaleLine standing={standing} saved={saved} />
          {(changed || busy) && (
            <Box
              role="status"
              sx={{
                position: 'sticky',
                top: 8,
                zIndex: 2,
                display: 'flex',
                gap: 1,
                alignItems: 'center',
                p: '8px 8px 8px 16px',
                borderRadius: '8px',
                background: ink[1],
                color: '#f2eaf2',
              }}
            >
              <Box sx={{ flex: 1, fontWeight: 600 }}>Unsaved changes</Box>
              <Button size="small" sx={{ color: '#f2eaf2' }} onClick={() => saved.discard()}>
                Discard
              </Button>
              <Button size="small" variant="contained" disabled={busy || standing.stale} onClick={save}>
                Save for the whole site
              </Button>
            </Box>
          )}
          <Sheet>
            <Typography variant="h2" sx={{ mb: 1 }}>
              Colours
            </Typography>
            <Box sx={{ display: 'grid', gap: '8px' }}>
              {kit.colors.map((c, i) => {
                const used = uses.filter(u => u.colors.includes(c.id))
                return (
                  <Box key={c.id} sx={{ display: 'grid', gridTemplateColumns: '46px 180px 1fr auto', gap: '12px', alignItems: 'center' }}>
                    <ColourField label={c.name} value={c.value} kit={plainKit} near={logo} onChange={v => set(k => void (k.colors[i].value = v))} />
                    <OutlinedInput
                      size="small"
                      value={c.name}
                      onChange={e => set(k => void (k.colors[i].name = e.target.value))}
                      error={!!errors.colors?.[i]}
                      inputProps={{ 'aria-label': `Name of ${c.id}`, maxLength: 60 }}
                    />
                    <Box component="span" sx={{ fontSize: 12.5, color: ink[2] }}>
                      {c.value} · {{ background: 'background', ink: 'text', accent: 'buttons', accent_ink: 'button text', soft: 'boxes' }[c.id] ?? 'custom'}
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
                        Delete
                      </Button>
                    )}
                  </Box>
                )
              })}
            </Box>
            {wrongColor && (
              <Typography role="alert" variant="body2" sx={{ color: brick.main, fontWeight: 600, mt: 1 }}>
                {wrongColor}
              </Typography>
            )}
            <Box sx={{ display: 'flex', gap: 1, mt: 2, alignItems: 'center', flexWrap: 'wrap' }}>
              <Button variant="outlined" size="small" onClick={() => addColor('#888888')} disabled={kit.colors.length >= 24}>
                Add a colour
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
                  if (!found.length) toast('No colours could be read from this file. Use PNG, JPEG or WebP.', true)
                  if (file.current) file.current.value = ''
                }}
              />
              {logo.map(c => (
                <ButtonBase
                  key={c}
                  aria-label={`Add ${c}`}
                  title={`Add ${c}`}
                  onClick={() => addColor(c)}
                  data-hue
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
                      {ratio.toFixed(1)} : 1 {ratio >= 4.5 ? '✓' : '! too low'}
                    </Box>
                  </Box>
                )
              })}
            </Box>
          </Sheet>
          <Sheet>
            <Typography variant="h2" sx={{ mb: 1 }}>
              Fonts and shapes
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
              <Labelled name="Frame corners">
                <NumberField label="Frame corners" value={kit.corners} unit="px" min={0} max={64} onChange={n => set(k => void (k.corners = n))} />
              </Labelled>
              <Labelled name="Button corners">
                <NumberField
                  label="Button corners"
                  value={kit.button.corners}
                  unit="px"
                  min={0}
                  max={40}
                  onChange={n => set(k => void (k.button.corners = n))}
                />
              </Labelled>
              <Labelled name="Button font weight">
                <NumberField label="Button font weight" value={kit.button.weight} min={400} max={800} onChange={n => set(k => void (k.button.weight = n))} />
              </Labelled>
              <Labelled name="Field corners">
                <NumberField label="Field corners" value={kit.field.corners} unit="px" min={0} max={40} onChange={n => set(k => void (k.field.corners = n))} />
              </Labelled>
              <Labelled name="Uppercase buttons">
                <Switch
                  checked={!!kit.button.capital}
                  onChange={e => set(k => void (k.button.capital = e.target.checked || undefined))}
                  slotProps={{ input: { 'aria-label': 'Uppercase buttons' } }}
                />
              </Labelled>
              <Labelled name="Underlined fields">
                <Switch
                  checked={!!kit.field.line}
                  onChange={e => set(k => void (k.field.line = e.target.checked || undefined))}
                  slotProps={{ input: { 'aria-label': 'Underlined fields' } }}
                />
              </Labelled>
            </Box>
          </Sheet>
          {standing.wrong && (
            <Typography role="alert" sx={{ color: brick.main, fontWeight: 600 }}>
              {standing.wrong}
            </Typography>
          )}
        </Box>
        <Sheet bitten>
          <Typography variant="h2">
            {uses.length ? `${counted(uses.length, 'piece')} ${uses.length === 1 ? 'follows' : 'follow'} the style kit` : 'Preview'}
          </Typography>
          <Typography variant="body2" color="textSecondary" sx={{ mb: 1.5 }}>
            {uses.length
              ? `A preview with your changes. When you save, ${count(liveUses)} of them that ${liveUses === 1 ? 'is' : 'are'} live change${liveUses === 1 ? 's' : ''} for visitors at once.`
              : 'No piece follows the style kit yet. New pieces do by default.'}
          </Typography>
          <Box sx={{ display: 'grid', gap: '14px' }}>
            {uses.slice(0, 8).map(u => (
              <Box key={u.id}>
                <Box sx={{ borderRadius: '8px', overflow: 'hidden', border: `1px solid ${paper.line}` }}>
                  <Restyled drawing={u.drawing} kit={kit} />
                </Box>
                <Box sx={{ display: 'flex', justifyContent: 'space-between', mt: '5px', fontSize: 13 }}>
                  <Link to={at(`/pieces/${u.id}/compose`)}>{u.name}</Link>
                  <StateTag state={u.state} />
                </Box>
              </Box>
            ))}
          </Box>
        </Sheet>
      </Box>
    </SitePage>
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
