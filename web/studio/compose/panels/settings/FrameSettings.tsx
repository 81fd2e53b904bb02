import Typography from '@mui/material/Typography'
import { Suspense, useContext, useState } from 'react'
import type { Format, Frame, Piece } from '../../../../kinds/piece'
import { playSound } from '../../../../page/extras'
import { formatOn, paint, placeOf } from '../../../../page/paint'
import { clauses } from '../../../../page/watch'
import { fonts } from '../../../design/fonts'
import { refitAsOne, refitPhones, refitVariant } from '../../../design/formats'
import { buttonsOf } from '../../../design/graph'
import { answers, flat } from '../../../design/tree'
import { NumberField } from '../../../parts/forms/fields'
import { later } from '../../../parts/look/later'
import { TextButton } from '../../../parts/look/TextButton'
import { counted, letters } from '../../../parts/words/say'
import { change } from '../../../piece/draft'
import { sitsAs } from '../../../piece/drawing'
import { formats, useSite, useTemplates } from '../../../server/queries'
import { changeFrame, changeScene } from '../../commands/change'
import { deleteScene } from '../../commands/scenes'
import { useSeen } from '../../commands/view'
import { Choice, Colour, Flag, KitNum, Line, More, Muted, Num, Pick, Reads, Row, Rule, ThingContext, Toggle, Typed } from '../controls/controls'
import { Ways } from '../controls/Ways'
import { AnchorSettings } from './AnchorSettings'
import { BackgroundSettings } from './BackgroundSettings'
import { ConversationSettings } from './ConversationSettings'
import { PageWeight } from './PageWeight'

const places: Record<string, string> = {
  center: 'Centre',
  top: 'Top',
  bottom: 'Bottom',
  start: 'Left',
  end: 'Right',
  top_start: 'Top left',
  top_end: 'Top right',
  bottom_start: 'Bottom left',
  bottom_end: 'Bottom right',
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
  ['', 'Rise'],
  ['fade', 'Fade in'],
  ['drop', 'Drop down'],
  ['slide', 'Slide in'],
  ['grow', 'Grow'],
  ['none', 'None'],
] as const

// It brings the builder of rules.
const OwnMoments = later(async () => (await import('../../../piece/OwnMoments')).OwnMoments)

/** When the variant in view shows, besides what Reach says. */
function Moments({ i }: { i: number }) {
  const moments = useSeen().doc.split.variants[i].moments
  const [open, setOpen] = useState(false)
  return (
    <Row label="Moments">
      {() => (
        <>
          <TextButton onClick={() => setOpen(true)}>
            {moments ? `${counted(clauses(moments).length, 'moment')} of ${letters[i]}’s own` : 'As Reach says'}
          </TextButton>
          {open && (
            <Suspense fallback={null}>
              <OwnMoments i={i} onClose={() => setOpen(false)} />
            </Suspense>
          )}
        </>
      )}
    </Row>
  )
}

/** Format, frame and scene. */
export function FrameSettings() {
  const { v, doc, design, scene, sceneAt, phone } = useSeen()
  const { kit } = useSite()
  const frame = useContext(ThingContext).shown as Frame
  const variant = doc.split.variants[v]
  const several = doc.split.variants.length > 1
  const sits = sitsAs(doc, design)
  const format = formatOn(phone, sits)
  const frames = useTemplates().data?.frames
  const ink = paint(kit, frame.ink)
  const talks = format === 'chat' || !!frame.talk
  const set = (how: (f: Frame) => void) => changeFrame(how)
  return (
    <>
      <Choice
        label="Format"
        value={sits.format}
        options={(Object.entries(formats) as [Format, string][]).map(([f, name]) => [
          f,
          several && (f === 'inline') !== (doc.format === 'inline') ? `${name}, all variants` : name,
        ])}
        onChange={to => change(d => void (frames && refitVariant(d as Piece, v, to, frames)))}
        at={variant.format ? `split.variants[${v}].format` : 'format'}
      />
      {sits.format !== 'inline' && (
        <Choice
          label="On phones"
          value={sits.phone_format ?? ''}
          options={[['', 'Same format'], ...Object.entries(formats).filter(([f]) => f !== 'inline' && f !== sits.format)] as [Format | '', string][]}
          onChange={to => change(d => refitPhones(d as Piece, v, to))}
          at={variant.format ? `split.variants[${v}].phone_format` : 'phone_format'}
        />
      )}
      {several && doc.format !== 'inline' && (
        <Row label="" wide>
          {() =>
            doc.split.variants.some(x => x.format) ? (
              <Muted>
                {doc.split.variants.map((x, i) => `${letters[i]}: ${formats[x.format ?? doc.format]}`).join(', ')}.{' '}
                <TextButton onClick={() => change(d => void (frames && refitAsOne(d as Piece, v, frames)))}>Use {letters[v]}’s for all variants</TextButton>
              </Muted>
            ) : (
              <Muted>The same in all variants. What you change here changes in {letters[v]} alone.</Muted>
            )
          }
        </Row>
      )}
      {several && <Moments i={v} />}
      {placesOf[format].length > 0 && (
        <Choice
          label="Position"
          k="place"
          value={placeOf(format, frame.place)}
          options={placesOf[format].map(p => [p, places[p]] as const)}
          onChange={p => set(f => void (f.place = p === placesOf[format][0] ? undefined : (p as Frame['place'])))}
        />
      )}
      {format === 'bar' && (
        <>
          <Toggle label="Scrolls with the page" k="bar" on={!!frame.bar?.scrolls} onChange={on => set(f => setBar(f, { scrolls: on }))} />
          <Toggle label="Pushes the page down" k="bar" on={!!frame.bar?.pushes} onChange={on => set(f => setBar(f, { pushes: on }))} />
          {frame.bar?.pushes && (
            <Row label="" wide>
              {() => <Muted>The page moves down by its height as it comes. Search engines measure that.</Muted>}
            </Row>
          )}
        </>
      )}
      {format === 'inline' && <AnchorSettings frame={frame} />}
      {(format === 'chat' || (format === 'inline' && frame.talk)) && <ConversationSettings frame={frame} launcher={format === 'chat'} />}
      <Rule />
      <Num k="width" label={format === 'full' || format === 'bar' ? 'Content width' : 'Width'} unit="px" min={200} max={1200} />
      <Num k="padding" label="Padding" unit="px" min={0} max={96} />
      <KitNum k="corners" label="Corners" min={0} max={64} kit={kit.corners} by={-1} />
      <Pick k="font" label="Font" options={fonts} />
      <Rule />
      <Colour k="background" label="Background" set="@background" page={format === 'inline'} />
      <Colour k="ink" label="Text colour" set="@ink" page={format === 'inline'} />
      <Reads ink={ink} behind={paint(kit, frame.background)} />
      <Colour k="accent" label="Button colour" set="@accent" page={format === 'inline'} />
      <Colour k="accent_ink" label="Button text" set="@accent_ink" page={format === 'inline'} />
      <Reads ink={paint(kit, frame.accent_ink)} behind={paint(kit, frame.accent)} />
      {format === 'inline' && (
        <Row label="">
          {() => (
            <TextButton
              onClick={() =>
                set(f => {
                  f.background = f.ink = f.accent = f.accent_ink = '@page'
                  f.font = '@page'
                  delete f.heading_font
                })
              }
            >
              Use the page’s own fonts and colours
            </TextButton>
          )}
        </Row>
      )}
      <More name="Background picture, gradient or video">
        <BackgroundSettings frame={frame} set={set} />
      </More>
      {(format === 'popup' || format === 'sheet' || format === 'full') && (
        <More name="Backdrop">
          <Colour k="backdrop.color" label="Backdrop colour" />
          <Num k="backdrop.opacity" label="Backdrop opacity" unit="%" min={0} max={100} />
          <Flag k="backdrop.closes" label="Close on backdrop click" />
        </More>
      )}
      <More name="Border, shadow and gap">
        <Num k="border.width" label="Border width" unit="px" min={0} max={12} usual={0} />
        {frame.border?.width ? <Colour k="border.color" label="Border colour" usual="@ink" /> : null}
        <Pick
          k="shadow"
          label="Shadow"
          options={[
            ['', 'Default'],
            ['none', 'None'],
            ['soft', 'Soft'],
            ['deep', 'Deep'],
          ]}
        />
        <Num k="gap" label="Gap" unit="px" min={1} max={48} usual={16} />
        <Pick k="heading_font" label="Heading font" options={[['', 'Default'] as const, ...fonts]} />
      </More>
      {format !== 'inline' && (
        <More name="Animation and sound">
          <Pick k="enter" label="Entrance" options={motions} />
          <Pick
            k="leave"
            label="Exit"
            options={[
              ['', 'Fade out'],
              ['rise', 'Sink'],
              ['drop', 'Move up'],
              ['slide', 'Slide out'],
              ['grow', 'Shrink'],
              ['none', 'None'],
            ]}
          />
          <Row label="">{() => <Muted>Visitors who ask for reduced motion see none.</Muted>}</Row>
          <Pick
            k="sound"
            label="Sound"
            options={[
              ['', 'None'],
              ['chime', 'Soft chime'],
              ['knock', 'Knock on wood'],
            ]}
          />
          {frame.sound && (
            <>
              <Row label="">{() => <TextButton onClick={() => playSound(frame.sound!)}>Play it</TextButton>}</Row>
              <Row label="">{() => <Muted>Browsers play it only for visitors who have clicked or typed on the page before.</Muted>}</Row>
            </>
          )}
        </More>
      )}
      {format !== 'inline' && format !== 'chat' && (
        <More name="Tab that opens it again">
          <Line k="tab.words" label="Tab text" max={60} optional hint="10 % off" />
          {frame.tab?.words && (
            <>
              <Flag k="tab.after" label="Show after closing only" />
              <Pick
                k="tab.place"
                label="Tab position"
                options={[
                  ['', 'Bottom right'],
                  ['bottom_start', 'Bottom left'],
                  ['middle_end', 'Middle right'],
                  ['middle_start', 'Middle left'],
                ]}
              />
              <Colour k="tab.fill" label="Tab colour" usual={frame.accent} />
              <Colour k="tab.ink" label="Tab text colour" usual={frame.accent_ink} />
            </>
          )}
        </More>
      )}
      <More name="Page weight and credit">
        <PageWeight design={design} />
        <Flag k="credit" label="“Made with Gobbet”" />
      </More>
      <Rule />
      <Typography variant="h4" component="h3" sx={{ px: '16px', mb: '2px' }}>
        Scene
      </Typography>
      <Row label="Name" at={`${sceneAt}.name`}>
        {id => <Typed id={id} value={scene.name} max={120} onChange={w => changeScene(s => void (s.name = w), 'scene name')} />}
      </Row>
      <Row label="Time limit" at={`${sceneAt}.limit`}>
        {id => (
          <NumberField
            id={id}
            value={scene.limit ?? 0}
            unit="s"
            min={0}
            max={3600}
            onChange={n =>
              changeScene(s => {
                if (n) s.limit = n
                else {
                  delete s.limit
                  delete s.extends
                }
              }, 'scene limit')
            }
          />
        )}
      </Row>
      {scene.limit ? (
        <>
          <Toggle label="More time on request" on={!!scene.extends} onChange={on => changeScene(s => (on ? void (s.extends = true) : void delete s.extends))} />
          <Row label="" wide>
            {() => (
              <Muted>
                When it is over the next scene comes, without an answer.{' '}
                {scene.extends
                  ? 'Visitors can have the same time again, up to ten times.'
                  : 'Some people need longer to read: unless speed is the point, give them more time.'}
              </Muted>
            )}
          </Row>
        </>
      ) : null}
      {talks && !flat(scene.blocks).some(answers) && buttonsOf(scene).length === 0 && (
        <>
          <Toggle label="Continue automatically" on={!!scene.passes} onChange={on => changeScene(s => (on ? void (s.passes = true) : void delete s.passes))} />
          {scene.passes && <Ways block="" label="Next scene" />}
        </>
      )}
      {design.scenes.length > 1 && <Row label="">{() => <TextButton onClick={() => deleteScene(scene.id)}>Delete this scene</TextButton>}</Row>}
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
