import Box from '@mui/material/Box'
import MenuItem from '@mui/material/MenuItem'
import OutlinedInput from '@mui/material/OutlinedInput'
import Select from '@mui/material/Select'
import Switch from '@mui/material/Switch'
import Typography from '@mui/material/Typography'
import type { ReactNode } from 'react'
import type { Block, Design } from '../../kinds/piece'
import { useDraft } from '../bench/draft'
import { ColorField, contrast, NumberField } from '../parts/fields'
import { apricot, moss, paper } from '../theme'
import { BlockSettings } from './BlockSettings'
import { Row } from './Row'
import { changeDesign, changeScene, kindNames, select, useScene, useView } from './view'

/** The settings of what is selected. */
export function Settings() {
  const { scene, view, at, sceneAt } = useScene()
  const index = scene.blocks.findIndex(b => b.id === view.selected)
  const block: Block | undefined = scene.blocks[index]
  const place = block ? `${sceneAt}.blocks[${index}]` : view.selected === 'close' ? `${at}.frame.close` : `${at}.frame`
  return (
    <Box component="aside" aria-label="Settings" sx={{ background: paper.bench, borderLeft: `1px solid ${paper.line}`, overflowY: 'auto', py: '14px' }}>
      <Typography variant="h4" component="h2" sx={{ px: '16px', mb: '6px' }}>
        {block ? kindNames[block.kind] : view.selected === 'close' ? 'Close mark' : 'Frame'}
      </Typography>
      {block ? (
        <BlockSettings key={block.id} block={block} at={place} />
      ) : view.selected === 'close' ? (
        <CloseSettings at={place} />
      ) : (
        <FrameSettings at={place} />
      )}
      <Notes at={place} scene={!block && view.selected === 'frame' ? sceneAt : ''} />
    </Box>
  )
}

/** The colours a design has, to be offered again. */
export const colorsOf = ({ frame: f }: Design) => [...new Set([f.accent, f.background, f.ink, f.accent_ink, f.veil.color, '#ffffff'])]

/** How well words read on what is behind them. */
export function Reads({ ink, behind }: { ink: string; behind: string }) {
  const ratio = Math.floor(contrast(ink, behind) * 10) / 10
  const clear = ratio >= 4.5
  return (
    <Row label="Reads at">
      {() => (
        <span>
          <Box component="b" sx={{ color: clear ? moss.ink : apricot.ink }}>
            {ratio.toFixed(1)} : 1
          </Box>{' '}
          {clear ? '✓ clear enough' : '! hard to read, 4.5 is the least'}
        </span>
      )}
    </Row>
  )
}

export function Rule() {
  return <Box sx={{ borderTop: `1px solid ${paper.line}`, my: '8px' }} />
}

export function Toggle({ label, on, onChange }: { label: string; on: boolean; onChange(on: boolean): void }) {
  return (
    <Row label={label}>{id => <Switch id={id} checked={on} onChange={e => onChange(e.target.checked)} slotProps={{ input: { 'aria-label': label } }} />}</Row>
  )
}

export function Choice<T extends string>({
  label,
  value,
  options,
  onChange,
  at,
}: {
  label: string
  value: T
  options: readonly (readonly [T, string])[]
  onChange(value: T): void
  at?: string
}) {
  return (
    <Row label={label} at={at}>
      {() => (
        <Select fullWidth value={value} onChange={e => onChange(e.target.value as T)} inputProps={{ 'aria-label': label }} displayEmpty>
          {options.map(([key, name]) => (
            <MenuItem key={key} value={key}>
              {name}
            </MenuItem>
          ))}
        </Select>
      )}
    </Row>
  )
}

function FrameSettings({ at }: { at: string }) {
  const { doc, design, scene, sceneAt } = useScene()
  const { frame } = design
  const near = colorsOf(design)
  const set = (how: (frame: Design['frame']) => void) => changeDesign(d => how(d.frame), 'frame')
  return (
    <>
      <Row label="Width">{id => <NumberField id={id} value={frame.width} unit="px" min={200} max={1200} onChange={n => set(f => void (f.width = n))} />}</Row>
      <Row label="Padding">{id => <NumberField id={id} value={frame.padding} unit="px" min={0} max={96} onChange={n => set(f => void (f.padding = n))} />}</Row>
      <Row label="Corners">{id => <NumberField id={id} value={frame.corners} unit="px" min={0} max={64} onChange={n => set(f => void (f.corners = n))} />}</Row>
      <Choice
        label="Letters"
        value={frame.font}
        options={
          [
            ['sans', 'Sans'],
            ['serif', 'Serif'],
          ] as const
        }
        onChange={font => set(f => void (f.font = font))}
      />
      <Rule />
      <Row label="Background" at={`${at}.background`}>
        {id => <ColorField id={id} label="Background" value={frame.background} near={near} onChange={c => set(f => void (f.background = c))} />}
      </Row>
      <Row label="Words" at={`${at}.ink`}>
        {id => <ColorField id={id} label="Words" value={frame.ink} near={near} onChange={c => set(f => void (f.ink = c))} />}
      </Row>
      <Reads ink={frame.ink} behind={frame.background} />
      <Row label="Buttons">{id => <ColorField id={id} label="Buttons" value={frame.accent} near={near} onChange={c => set(f => void (f.accent = c))} />}</Row>
      <Row label="On buttons">
        {id => <ColorField id={id} label="On buttons" value={frame.accent_ink} near={near} onChange={c => set(f => void (f.accent_ink = c))} />}
      </Row>
      <Reads ink={frame.accent_ink} behind={frame.accent} />
      {doc.format === 'popup' && (
        <>
          <Rule />
          <Row label="Veil">
            {id => <ColorField id={id} label="Veil" value={frame.veil.color} near={near} onChange={c => set(f => void (f.veil.color = c))} />}
          </Row>
          <Row label="Veil's strength">
            {id => <NumberField id={id} value={frame.veil.opacity} unit="%" min={0} max={100} onChange={n => set(f => void (f.veil.opacity = n))} />}
          </Row>
          <Toggle label="Press closes" on={frame.veil.closes} onChange={on => set(f => void (f.veil.closes = on))} />
        </>
      )}
      <Rule />
      <Typography variant="h4" component="h3" sx={{ px: '16px', mb: '2px' }}>
        Scene
      </Typography>
      <Row label="Name" at={`${sceneAt}.name`}>
        {id => (
          <OutlinedInput
            id={id}
            size="small"
            fullWidth
            value={scene.name}
            onChange={e => changeScene(s => void (s.name = e.target.value), 'scene name')}
            inputProps={{ maxLength: 120 }}
          />
        )}
      </Row>
      {design.scenes.length > 1 && (
        <Row label="">
          {() => (
            <Link
              onClick={() => {
                const at = design.scenes.indexOf(scene)
                changeDesign(d => {
                  d.scenes.splice(at, 1)
                  // Buttons that led there lead nowhere now, and close instead.
                  for (const s of d.scenes)
                    for (const b of s.blocks)
                      if (b.kind === 'button' && b.press.scene === scene.id)
                        b.press = b.press.do === 'scene' ? { do: 'close' } : { ...b.press, scene: undefined }
                })
                useView.setState({ scene: design.scenes[at === 0 ? 1 : at - 1].id, selected: 'frame' })
              }}
            >
              Take this scene out
            </Link>
          )}
        </Row>
      )}
    </>
  )
}

function CloseSettings({ at }: { at: string }) {
  const { design } = useScene()
  return (
    <>
      <Row label="Read aloud as" at={`${at}.label`}>
        {id => (
          <OutlinedInput
            id={id}
            size="small"
            fullWidth
            value={design.frame.close.label}
            onChange={e => changeDesign(d => void (d.frame.close.label = e.target.value), 'close label')}
            inputProps={{ maxLength: 60 }}
          />
        )}
      </Row>
      <Toggle
        label="Shown"
        on={design.frame.close.shown}
        onChange={on => {
          changeDesign(d => void (d.frame.close.shown = on))
          if (!on) select('frame')
        }}
      />
    </>
  )
}

export function Link({ onClick, children }: { onClick(): void; children: ReactNode }) {
  return (
    <Box
      component="button"
      type="button"
      onClick={onClick}
      sx={{
        border: 0,
        p: 0,
        background: 'none',
        font: 'inherit',
        fontWeight: 600,
        color: 'primary.main',
        cursor: 'pointer',
        textAlign: 'start',
        '&:hover': { textDecoration: 'underline' },
      }}
    >
      {children}
    </Box>
  )
}

/** What there is to settle about the thing selected. */
function Notes({ at, scene }: { at: string; scene: string }) {
  const notes = useDraft(s => s.notes).filter(n => n.at.startsWith(at) || (scene && n.at === scene))
  return notes.map(n => (
    <Box key={n.code + n.at} sx={{ m: '10px 16px', p: '9px 11px', borderRadius: '8px', background: apricot.wash, color: '#7a3b12', fontSize: 13 }}>
      {n.say} {n.mend}
    </Box>
  ))
}
