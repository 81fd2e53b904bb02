import Box from '@mui/material/Box'
import Typography from '@mui/material/Typography'
import { memo, useDeferredValue } from 'react'
import type { Design, Format } from '../../../../kinds/piece'
import { formatOn, modal } from '../../../../page/paint'
import { blockKinds } from '../../../design/blocks'
import { find, shownOn } from '../../../design/tree'
import { TextButton } from '../../../parts/look/TextButton'
import { apricot, paper } from '../../../parts/look/theme'
import { useAllChecks } from '../../../piece/checks/useChecks'
import { sitsAs } from '../../../piece/drawing'
import { changeBlock, changeDesign, changeFrame, changeWhole, placeIn } from '../../commands/change'
import { fixOf } from '../../commands/fixes'
import { type Scened, SeenContext, useScene, useSeen } from '../../commands/view'
import { Colour, Flag, Line, Num, Pick, ThingContext } from '../controls/controls'
import { BlockSettings } from './BlockSettings'
import { FrameSettings } from './FrameSettings'
import { SeveralSettings } from './SeveralSettings'

/** The settings of what is selected. */
export function Settings() {
  const now = useScene()
  const calm = useDeferredValue(now)
  // While text is typed on the page, that comes first.
  return <Sheet at={now.view.editing ? calm : now} />
}

const Sheet = memo(function Sheet({ at: seen }: { at: Scened }) {
  const { scene, view, at, sceneAt, design, phone } = seen
  const whole = find(scene, view.selected)?.block
  const place = whole ? placeIn(scene, sceneAt, whole.id) : view.selected === 'close' ? `${at}.frame.close` : `${at}.frame`
  const near = colorsOf(design)
  const frame = {
    shown: shownOn(phone, design.frame),
    at: `${at}.frame`,
    set: changeFrame as never,
    differs: Object.keys(design.frame.phone ?? {}),
    putBack: (key: string) =>
      changeDesign(d => {
        delete d.frame.phone?.[key]
        if (d.frame.phone && !Object.keys(d.frame.phone).length) delete d.frame.phone
      }),
    near,
  }
  return (
    <Box component="aside" aria-label="Settings" sx={{ background: paper.bench, borderLeft: `1px solid ${paper.line}`, overflowY: 'auto', py: '14px' }}>
      <Typography variant="h4" component="h2" sx={{ px: '16px', mb: '6px' }}>
        {view.also.length ? `${view.also.length + 1} blocks` : whole ? blockKinds[whole.kind].name : view.selected === 'close' ? 'Close button' : 'Frame'}
      </Typography>
      <SeenContext value={seen}>
        {view.also.length ? (
          <SeveralSettings />
        ) : whole ? (
          <ThingContext
            value={{
              shown: shownOn(phone, whole),
              at: place,
              set: how => changeBlock(whole.id, how as never),
              differs: Object.keys(whole.phone ?? {}),
              putBack: key =>
                changeWhole(whole.id, b => {
                  delete b.phone?.[key]
                  if (b.phone && !Object.keys(b.phone).length) delete b.phone
                }),
              near,
            }}
          >
            <BlockSettings key={whole.id} block={shownOn(phone, whole)} whole={whole} at={place} />
          </ThingContext>
        ) : (
          <ThingContext value={frame}>{view.selected === 'close' ? <CloseSettings /> : <FrameSettings />}</ThingContext>
        )}
      </SeenContext>
      {!view.also.length && <Notes at={place} also={!whole && view.selected === 'frame' ? [sceneAt, `${at}.scenes`] : []} />}
    </Box>
  )
})

/** The colours a design has, to be offered again. */
export function colorsOf(design: Design): string[] {
  const found = JSON.stringify(design).match(/"#[0-9a-f]{6}"/g) ?? []
  return [...new Set(found.map(c => c.slice(1, -1)))]
}

const corners: (readonly [string, string])[] = [
  ['', 'Top right'],
  ['start', 'Top left'],
]

/** Where the close button can stand in each format, the usual first; a chat's is in its own head. */
const closePlaces: Record<Format, (readonly [string, string])[]> = {
  popup: [...corners, ['outside', 'Outside, above']],
  fly_in: [...corners, ['outside', 'Outside, above']],
  full: corners,
  sheet: corners,
  inline: corners,
  bar: [
    ['', 'Right'],
    ['start', 'Left'],
  ],
  chat: [],
}

function CloseSettings() {
  const { doc, design, phone } = useSeen()
  const format = formatOn(phone, sitsAs(doc, design))
  if (format === 'chat')
    return (
      <>
        <Line k="close.label" label="Screen-reader label" max={60} />
        <Colour k="close.color" label="Colour" usual="@ink" />
      </>
    )
  return (
    <>
      <Line k="close.label" label="Screen-reader label" max={60} />
      <Pick
        k="close.look"
        label="Shape"
        options={[
          ['', 'Cross in a circle'],
          ['plain', 'Cross'],
          ['words', 'Text (its label)'],
        ]}
      />
      <Pick k="close.place" label="Position" options={closePlaces[format]} />
      <Colour k="close.color" label="Colour" usual="@ink" />
      <Num k="close.after" label="Delay" unit="s" min={0} max={10} usual={0} />
      {modal(format) && <Flag k="backdrop.closes" label="Close on backdrop click" />}
      <Flag k="close.shown" label="Visible" />
    </>
  )
}

/** Checks about what is selected, with a fix where one click will do. */
function Notes({ at, also }: { at: string; also: string[] }) {
  const notes = useAllChecks().filter(n => n.at === at || n.at.startsWith(at + '.') || also.includes(n.at))
  return notes.map(n => {
    const mend = fixOf(n)
    return (
      <Box
        key={n.code + n.at}
        data-note={n.code}
        sx={{ m: '10px 16px', p: '9px 11px', borderRadius: '8px', background: apricot.wash, color: '#7a3b12', fontSize: 13 }}
      >
        {n.say} {mend ? <TextButton onClick={mend.run}>{mend.name}</TextButton> : n.mend}
      </Box>
    )
  })
}
