import Typography from '@mui/material/Typography'
import { useContext } from 'react'
import type { Format, Frame } from '../../kinds/piece'
import { playSound } from '../../page/extras'
import { formatOn, paint, placeOf } from '../../page/paint'
import { change } from '../bench/draft'
import { formats, useSite, useStarts } from '../queries'
import { AnchorSettings } from './AnchorSettings'
import { BehindSettings } from './BehindSettings'
import { Choice, Colour, Flag, KitNum, Line, Link, More, Muted, Num, Pick, Reads, Row, Rule, ThingContext, Toggle, Typed } from './controls'
import { fonts } from './fonts'
import { refit } from './formats'
import { buttonsOf, takeOutScene } from './scenes'
import { TalkSettings } from './TalkSettings'
import { answers, flat } from './tree'
import { changeFrame, changeScene, useSeen } from './view'
import { Ways } from './Ways'
import { Weight } from './Weight'

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
  chat: ['bottom_end', 'bottom_start'],
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
  const { doc, design, scene, sceneAt, phone } = useSeen()
  const { kit } = useSite()
  const frame = useContext(ThingContext).shown as Frame
  const format = formatOn(phone, doc)
  const frames = useStarts().data?.frames
  const ink = paint(kit, frame.ink)
  const talks = format === 'chat' || !!frame.talk
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
      {(format === 'chat' || (format === 'inline' && frame.talk)) && <TalkSettings frame={frame} launcher={format === 'chat'} />}
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
        <More name="Movement and sound">
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
          <Pick
            k="sound"
            label="Sound"
            options={[
              ['', 'none'],
              ['chime', 'a soft chime'],
              ['knock', 'two knocks on wood'],
            ]}
          />
          {frame.sound && (
            <>
              <Row label="">{() => <Link onClick={() => playSound(frame.sound!)}>Hear it</Link>}</Row>
              <Row label="">{() => <Muted>Heard by who has pressed something on the page: browsers play nothing before.</Muted>}</Row>
            </>
          )}
        </More>
      )}
      {format !== 'inline' && format !== 'chat' && (
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
      {talks && !flat(scene.blocks).some(answers) && buttonsOf(scene).length === 0 && (
        <>
          <Toggle label="Continue automatically" on={!!scene.passes} onChange={on => changeScene(s => (on ? void (s.passes = true) : void delete s.passes))} />
          {scene.passes && <Ways block="" label="Goes to" />}
        </>
      )}
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
