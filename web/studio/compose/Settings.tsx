import Box from '@mui/material/Box'
import Typography from '@mui/material/Typography'
import { memo, useDeferredValue } from 'react'
import type { Design } from '../../kinds/piece'
import { apricot, paper } from '../theme'
import { BlockSettings } from './BlockSettings'
import { blockKinds } from './blocks'
import { Colour, Flag, Line, Link, Num, Pick, ThingContext } from './controls'
import { FrameSettings } from './FrameSettings'
import { Many } from './Many'
import { mendOf } from './mends'
import { useAllNotes } from './notes'
import { find, shownOn } from './tree'
import { changeBlock, changeDesign, changeFrame, changeWhole, placeIn, type Scened, SeenContext, useScene } from './view'

/** The settings of what is selected. */
export function Settings() {
  const now = useScene()
  const calm = useDeferredValue(now)
  // While words are typed on the page they come first.
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
        {view.also.length ? `${view.also.length + 1} blocks` : whole ? blockKinds[whole.kind].name : view.selected === 'close' ? 'Close mark' : 'Frame'}
      </Typography>
      <SeenContext value={seen}>
        {view.also.length ? (
          <Many />
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

function CloseSettings() {
  return (
    <>
      <Line k="close.label" label="Read aloud as" max={60} />
      <Pick
        k="close.look"
        label="Shape"
        options={[
          ['', 'a mark in a circle'],
          ['plain', 'a mark alone'],
          ['words', 'its words'],
        ]}
      />
      <Pick
        k="close.place"
        label="Stands"
        options={[
          ['', 'where lines end'],
          ['start', 'where lines start'],
          ['outside', 'outside, above'],
        ]}
      />
      <Colour k="close.color" label="Colour" usual="@ink" />
      <Num k="close.after" label="Shows after" unit="s" min={0} max={10} usual={0} />
      <Flag k="veil.closes" label="Veil closes too" />
      <Flag k="close.shown" label="Shown" />
    </>
  )
}

/** What there is to settle about the thing selected, with a mend where one press will do. */
function Notes({ at, also }: { at: string; also: string[] }) {
  const notes = useAllNotes().filter(n => n.at === at || n.at.startsWith(at + '.') || also.includes(n.at))
  return notes.map(n => {
    const mend = mendOf(n)
    return (
      <Box
        key={n.code + n.at}
        data-note={n.code}
        sx={{ m: '10px 16px', p: '9px 11px', borderRadius: '8px', background: apricot.wash, color: '#7a3b12', fontSize: 13 }}
      >
        {n.say} {mend ? <Link onClick={mend.run}>{mend.name}</Link> : n.mend}
      </Box>
    )
  })
}
