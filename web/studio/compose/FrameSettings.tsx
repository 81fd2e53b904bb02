import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import { type ReactNode, useContext } from 'react'
import type { Behind, Font, Format, Frame } from '../../kinds/piece'
import { formatOn, paint, placeOf } from '../../page/paint'
import { change } from '../bench/draft'
import { formats, useSite, useStarts } from '../queries'
import { ink } from '../theme'
import { ChooseFile } from './ChooseFile'
import { ChoosePicture } from './ChoosePicture'
import { Choice, Colour, Flag, KitNum, Line, Link, More, Num, Pick, Reads, Row, Rule, ThingContext, Toggle, Typed } from './controls'
import { refit } from './formats'
import { usePicking } from './picking'
import { takeOutScene } from './scenes'
import { changeFrame, changeScene, useScene } from './view'
import { Weight } from './Weight'

export const fonts: (readonly [Font, string])[] = [
  ['@text', 'site style, text'],
  ['@heading', 'site style, headings'],
  ['@page', 'the page’s own'],
  ['sans', 'Plain sans'],
  ['serif', 'Plain serif'],
  ['bricolage', 'Bricolage'],
  ['instrument', 'Instrument'],
  ['outfit', 'Outfit'],
  ['work', 'Work Sans'],
  ['karla', 'Karla'],
  ['nunito', 'Nunito'],
  ['rubik', 'Rubik'],
  ['grotesk', 'Space Grotesk'],
  ['fraunces', 'Fraunces'],
  ['lora', 'Lora'],
  ['playfair', 'Playfair'],
  ['source_serif', 'Source Serif'],
  ['bitter', 'Bitter'],
  ['caveat', 'Caveat'],
]

const places: Record<string, string> = {
  center: 'in the middle',
  top: 'at the top',
  bottom: 'at the bottom',
  start: 'at the start side',
  end: 'at the end side',
  top_start: 'top, start corner',
  top_end: 'top, end corner',
  bottom_start: 'bottom, start corner',
  bottom_end: 'bottom, end corner',
}
const placesOf: Record<Format, string[]> = {
  popup: ['center', 'top', 'bottom'],
  fly_in: ['bottom_end', 'bottom_start', 'top_end', 'top_start'],
  bar: ['top', 'bottom'],
  sheet: ['end', 'start'],
  full: [],
  inline: [],
}

const motions = [
  ['', 'rises'],
  ['fade', 'fades in'],
  ['drop', 'drops down'],
  ['slide', 'slides in'],
  ['grow', 'grows'],
  ['none', 'is just there'],
] as const

/** Format, frame and scene. */
export function FrameSettings() {
  const { doc, design, scene, sceneAt, phone } = useScene()
  const { kit } = useSite()
  const frame = useContext(ThingContext).shown as Frame
  const format = formatOn(phone, doc)
  const frames = useStarts().data?.frames
  const ink = paint(kit, frame.ink)
  const set = (how: (f: Frame) => void) => changeFrame(how)
  return (
    <>
      <Choice
        label="Format"
        value={doc.format}
        options={Object.entries(formats) as [Format, string][]}
        onChange={to =>
          change(d => {
            if (frames) refit(d as never, to, frames)
          })
        }
        at="format"
      />
      {doc.format !== 'inline' && (
        <Choice
          label="On phones"
          value={doc.phone_format ?? ''}
          options={[['', 'the same'], ...Object.entries(formats).filter(([f]) => f !== 'inline' && f !== doc.format)] as [Format | '', string][]}
          onChange={to =>
            change(d => {
              if (to) d.phone_format = to
              else delete d.phone_format
            })
          }
          at="phone_format"
        />
      )}
      {placesOf[format].length > 0 && (
        <Choice
          label="Stands"
          k="place"
          value={placeOf(format, frame.place)}
          options={placesOf[format].map(p => [p, places[p]] as const)}
          onChange={p => set(f => void (f.place = p === placesOf[format][0] ? undefined : (p as Frame['place'])))}
        />
      )}
      {format === 'bar' && (
        <>
          <Toggle label="Scrolls away" k="bar" on={!!frame.bar?.scrolls} onChange={on => set(f => setBar(f, { scrolls: on }))} />
          <Toggle label="Makes room" k="bar" on={!!frame.bar?.pushes} onChange={on => set(f => setBar(f, { pushes: on }))} />
        </>
      )}
      {format === 'inline' && <AnchorSettings frame={frame} />}
      <Rule />
      <Num k="width" label={format === 'full' || format === 'bar' ? 'Inside' : 'Width'} unit="px" min={200} max={1200} />
      <Num k="padding" label="Padding" unit="px" min={0} max={96} />
      <KitNum k="corners" label="Corners" min={0} max={64} kit={kit.corners} by={-1} />
      <Pick k="font" label="Letters" options={fonts} />
      <Rule />
      <Colour k="background" label="Background" set="@background" page={format === 'inline'} />
      <Colour k="ink" label="Words" set="@ink" page={format === 'inline'} />
      <Reads ink={ink} behind={paint(kit, frame.background)} />
      <Colour k="accent" label="Buttons" set="@accent" page={format === 'inline'} />
      <Colour k="accent_ink" label="On buttons" set="@accent_ink" page={format === 'inline'} />
      <Reads ink={paint(kit, frame.accent_ink)} behind={paint(kit, frame.accent)} />
      {format === 'inline' && (
        <Row label="">
          {() => (
            <Link
              onClick={() =>
                set(f => {
                  f.background = f.ink = f.accent = f.accent_ink = '@page'
                  f.font = '@page'
                  delete f.heading_font
                })
              }
            >
              Take the page's own colours and letters
            </Link>
          )}
        </Row>
      )}
      <More name="Picture, gradient or video behind">
        <BehindSettings frame={frame} set={set} />
      </More>
      {(format === 'popup' || format === 'sheet' || format === 'full') && (
        <More name="Veil">
          <Colour k="veil.color" label="Veil" />
          <Num k="veil.opacity" label="Veil's strength" unit="%" min={0} max={100} />
          <Flag k="veil.closes" label="Press closes" />
        </More>
      )}
      <More name="Border, shadow and space">
        <Num k="border.width" label="Border" unit="px" min={0} max={12} usual={0} />
        {frame.border?.width ? <Colour k="border.color" label="Its colour" usual="@ink" /> : null}
        <Pick
          k="shadow"
          label="Shadow"
          options={[
            ['', 'as usual'],
            ['none', 'none'],
            ['soft', 'soft'],
            ['deep', 'deep'],
          ]}
        />
        <Num k="gap" label="Between blocks" unit="px" min={1} max={48} usual={16} />
        <Pick k="heading_font" label="Headings in" options={[['', 'what goes with the letters'] as const, ...fonts]} />
      </More>
      {format !== 'inline' && (
        <More name="Coming and going">
          <Pick k="enter" label="Coming, it" options={motions} />
          <Pick
            k="leave"
            label="Going, it"
            options={[
              ['', 'fades out'],
              ['rise', 'sinks'],
              ['drop', 'goes up'],
              ['slide', 'slides out'],
              ['grow', 'shrinks'],
              ['none', 'is just gone'],
            ]}
          />
          <Row label="">{() => <Muted>Who asks for less motion gets none.</Muted>}</Row>
        </More>
      )}
      {format !== 'inline' && (
        <More name="A tab that opens it">
          <Line k="tab.words" label="Its words" max={60} optional hint="10 % off" />
          {frame.tab?.words && (
            <>
              <Flag k="tab.after" label="Only once closed" />
              <Pick
                k="tab.place"
                label="Stands"
                options={[
                  ['', 'bottom, end'],
                  ['bottom_start', 'bottom, start'],
                  ['middle_end', 'half way, end'],
                  ['middle_start', 'half way, start'],
                ]}
              />
              <Colour k="tab.fill" label="Fill" usual={frame.accent} />
              <Colour k="tab.ink" label="Its words' colour" usual={frame.accent_ink} />
            </>
          )}
        </More>
      )}
      <More name="Weight and credit">
        <Weight design={design} />
        <Flag k="credit" label="Made with Gobbet" />
      </More>
      <Rule />
      <Typography variant="h4" component="h3" sx={{ px: '16px', mb: '2px' }}>
        Scene
      </Typography>
      <Row label="Name" at={`${sceneAt}.name`}>
        {id => <Typed id={id} value={scene.name} max={120} onChange={w => changeScene(s => void (s.name = w), 'scene name')} />}
      </Row>
      {design.scenes.length > 1 && <Row label="">{() => <Link onClick={() => takeOutScene(scene.id)}>Take this scene out</Link>}</Row>}
    </>
  )
}

function setBar(f: Frame, to: Partial<NonNullable<Frame['bar']>>) {
  const bar = { ...f.bar, ...to }
  if (!bar.scrolls) delete bar.scrolls
  if (!bar.pushes) delete bar.pushes
  if (Object.keys(bar).length) f.bar = bar
  else delete f.bar
}

export const Muted = ({ children }: { children: ReactNode }) => (
  <Box component="span" sx={{ fontSize: 12.5, color: ink[2] }}>
    {children}
  </Box>
)

function AnchorSettings({ frame }: { frame: Frame }) {
  const picking = usePicking(s => s.pick)
  const piece = location.pathname.split('/')[2] ?? ''
  return (
    <>
      <Row label="In the page" k="anchor" wide>
        {() =>
          frame.anchor?.selector ? (
            <Muted>
              Beside <code>{frame.anchor.selector}</code>. <Link onClick={() => changeFrame(f => void delete f.anchor)}>Use a placeholder instead</Link>
            </Muted>
          ) : (
            <Muted>
              Where the page has <code>{`<div data-gobbet="${piece}"></div>`}</code>.
            </Muted>
          )
        }
      </Row>
      <Row label="">
        {() => (
          <Button variant="outlined" size="small" aria-pressed={picking} onClick={() => usePicking.setState({ pick: !picking })}>
            Choose an element on the page
          </Button>
        )}
      </Row>
      {frame.anchor?.selector && (
        <>
          <Line k="anchor.selector" label="Selector" max={500} />
          <Pick
            k="anchor.where"
            label="Stands"
            options={[
              ['', 'after it'],
              ['before', 'before it'],
              ['first', 'in it, first'],
              ['last', 'in it, last'],
            ]}
          />
        </>
      )}
    </>
  )
}

const nothing = 'nothing'

function BehindSettings({ frame, set }: { frame: Frame; set(how: (f: Frame) => void): void }) {
  const b = frame.behind
  const kind = b?.gradient?.length ? 'gradient' : b?.video !== undefined ? 'video' : b?.picture !== undefined ? 'picture' : nothing
  const change = (how: (b: Behind) => void) =>
    set(f => {
      const next = { ...f.behind }
      how(next)
      f.behind = next
    })
  return (
    <>
      <Choice
        label="Behind it"
        k="behind"
        value={kind}
        options={[
          [nothing, 'the background colour'],
          ['picture', 'a picture'],
          ['gradient', 'a gradient'],
          ['video', 'a video'],
        ]}
        onChange={to =>
          set(f => {
            if (to === nothing) delete f.behind
            else if (to === 'gradient') f.behind = { gradient: ['@accent', '@ink'], angle: 135 }
            else if (to === 'picture') f.behind = { picture: '', side: 'start' }
            else f.behind = { video: '', shade: 30 }
          })
        }
      />
      {kind === 'picture' && <ChoosePicture value={b?.picture ?? ''} onChoose={p => change(n => void (n.picture = p.hash))} />}
      {kind === 'video' && <ChooseFile value={b?.video ?? ''} video onChoose={f => change(n => void (n.video = f.hash))} />}
      {kind === 'gradient' && (
        <>
          {b!.gradient!.map((_, i) => (
            <Colour key={i} k={`behind.gradient.${i}`} label={i === 0 ? 'From' : 'To'} />
          ))}
          <Num k="behind.angle" label="Angle" unit="°" min={0} max={360} />
        </>
      )}
      {(kind === 'picture' || kind === 'video') && (
        <>
          <Pick
            k="behind.side"
            label="Stands"
            options={[
              ['', 'behind everything'],
              ['start', 'beside, at the start'],
              ['end', 'beside, at the end'],
              ['top', 'above'],
            ]}
          />
          {b?.side ? (
            <Num k="behind.share" label="Takes" unit="%" min={15} max={70} usual={42} />
          ) : (
            <Num k="behind.shade" label="Covered by" unit="% colour" min={0} max={95} usual={0} />
          )}
          <Focus k="behind" hash={b?.picture} />
          {kind === 'picture' && <Line k="behind.alt" label="Says, to those who cannot see it" max={500} optional hint="nothing: mere decoration" />}
        </>
      )}
    </>
  )
}

/** How a picture fills its place, and the point of it that stays in view. */
export function Focus({ k, hash }: { k?: string; hash?: string }) {
  const { shown, set } = useContext(ThingContext)
  const of = (k ? ((shown as Frame).behind ?? {}) : shown) as { focus?: { x: number; y: number }; fit?: string }
  const focus = of.focus ?? { x: 50, y: 50 }
  const prefix = k ? k + '.' : ''
  const point = (x: number, y: number) =>
    set(((t: Frame) => {
      const target = (k ? (t.behind ??= {}) : t) as { focus?: { x: number; y: number } }
      target.focus = { x: Math.max(0, Math.min(100, Math.round(x))), y: Math.max(0, Math.min(100, Math.round(y))) }
    }) as never)
  return (
    <>
      <Pick
        k={`${prefix}fit`}
        label="Fits"
        options={[
          ['', 'cut to fill'],
          ['contain', 'whole'],
        ]}
      />
      {hash && of.fit !== 'contain' && (
        <Row label="Stays in view" k={`${prefix}focus`}>
          {() => (
            <Box
              role="slider"
              aria-label="Point that stays in view"
              aria-valuetext={`${focus.x} % across, ${focus.y} % down`}
              aria-valuenow={focus.x}
              tabIndex={0}
              onKeyDown={e => {
                const by = { ArrowLeft: [-5, 0], ArrowRight: [5, 0], ArrowUp: [0, -5], ArrowDown: [0, 5] }[e.key]
                if (!by) return
                e.preventDefault()
                e.stopPropagation()
                point(focus.x + by[0], focus.y + by[1])
              }}
              onPointerDown={e => e.currentTarget.setPointerCapture(e.pointerId)}
              onPointerMove={e => {
                if (!e.buttons) return
                const r = e.currentTarget.getBoundingClientRect()
                point((100 * (e.clientX - r.left)) / r.width, (100 * (e.clientY - r.top)) / r.height)
              }}
              onClick={e => {
                const r = e.currentTarget.getBoundingClientRect()
                point((100 * (e.clientX - r.left)) / r.width, (100 * (e.clientY - r.top)) / r.height)
              }}
              sx={{ position: 'relative', cursor: 'crosshair', lineHeight: 0, borderRadius: '6px', overflow: 'hidden', touchAction: 'none' }}
            >
              <img src={`/v1/pictures/${hash}`} alt="" draggable={false} style={{ width: '100%', display: 'block' }} />
              <Box
                style={{ left: focus.x + '%', top: focus.y + '%' }}
                sx={{
                  position: 'absolute',
                  width: 18,
                  height: 18,
                  m: '-9px',
                  borderRadius: '50%',
                  border: '3px solid #fff',
                  boxShadow: '0 0 0 2px rgb(0 0 0 / .6)',
                }}
              />
            </Box>
          )}
        </Row>
      )}
    </>
  )
}
