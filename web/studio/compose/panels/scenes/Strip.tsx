import Add from '@mui/icons-material/Add'
import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import ButtonBase from '@mui/material/ButtonBase'
import Divider from '@mui/material/Divider'
import Menu from '@mui/material/Menu'
import MenuItem from '@mui/material/MenuItem'
import { Fragment, memo, Suspense, useDeferredValue, useState } from 'react'
import type { Drawing, Scene } from '../../../../kinds/piece'
import { buttonsOf, deadEnds, depths, waysOf } from '../../../design/graph'
import { talks } from '../../../design/lines'
import { flat } from '../../../design/tree'
import { Dragging, elementAt, useDrag, useMovable } from '../../../parts/keys/dragging'
import { later } from '../../../parts/look/later'
import { apricot, ink } from '../../../parts/look/theme'
import { Miniature } from '../../../parts/pages/Miniature'
import { useDrawing } from '../../../piece/drawing'
import { useSnippets } from '../../../server/queries'
import { addScene, addSort, deleteScene, duplicateScene, lead, moveScene, newScenes } from '../../commands/scenes'
import { type Scened, useScene, useView } from '../../commands/view'
import { SaveSnippet } from '../controls/SaveSnippet'

// Where all scenes are seen at once; each is loaded when it is first opened.
const wholes = {
  map: later(async () => (await import('./SceneMap')).default),
  script: later(async () => (await import('./Script')).default),
  scores: later(async () => (await import('./Scores')).default),
  formulas: later(async () => (await import('./Formulas')).default),
}

/** The scenes in order, each drawn small, and what leads from one to the next. */
export function Strip() {
  return <Scenes at={useDeferredValue(useScene())} />
}

// It follows a moment later: what is typed is painted before it is drawn small.
const Scenes = memo(function Scenes({ at }: { at: Scened }) {
  const { doc, design, scene } = at
  const [open, setOpen] = useState<keyof typeof wholes | null>(null)
  const Whole = open && wholes[open]
  const [menu, setMenu] = useState<{ x: number; y: number; scene: Scene } | null>(null)
  const [adding, setAdding] = useState<HTMLElement | null>(null)
  const [keeping, setKeeping] = useState<Scene | null>(null)
  const snippets = useSnippets()
  const kept = snippets.data?.filter(k => k.kind === 'scene') ?? []
  const drawing = useDrawing(doc, design)
  const ways = waysOf(design)
  const reached = depths(design)
  const dead = deadEnds(design)
  const fields = design.scenes.flatMap(s => flat(s.blocks)).filter(b => b.kind === 'field')
  const scored = fields.some(f => f.choices?.length) && design.scenes.some(s => s.kind === 'question' || s.kind === 'result')
  const computes = !!design.formulas?.length || fields.some(f => f.ask === 'slider' || f.ask === 'number')
  // A form that has no thank-you is offered one.
  const simple = !kept.length && !design.scenes.some(s => s.kind === 'thanks' || s.kind === 'question' || s.kind === 'result') && !computes
  // A scene goes where another stands; a button leads to the scene that it is dropped on.
  const landingAt = (x: number, y: number, dragged: string) => {
    const to = elementAt(x, y, '[data-scene]')?.dataset.scene
    return !to || dragged === 'scene:' + to || (dragged.startsWith('button:') && to === scene.id) ? null : to
  }
  const drop = (dragged: string, to: string) => {
    const [what, id] = dragged.split(':')
    if (what === 'scene')
      moveScene(
        id,
        design.scenes.findIndex(s => s.id === to),
      )
    else lead(scene.id, id, to)
  }
  return (
    <Dragging landingAt={landingAt} onDrop={drop}>
      <Box
        component="section"
        aria-label="Scenes"
        sx={{ gridColumn: '1 / -1', background: ink[1], color: '#eee2ef', display: 'flex', alignItems: 'center', px: '22px', gap: 0, overflowX: 'auto' }}
      >
        {design.scenes.map((s, i) => {
          const from = i > 0 ? ways.filter(w => w.from === design.scenes[i - 1].id) : []
          const between = from.find(w => w.to === s.id)
          const branches = new Set(from.map(w => w.to)).size > 1
          const wrong = !reached.has(s.id) ? 'not reached' : dead.includes(s.id) ? 'dead end' : ''
          const on = s.id === scene.id
          return (
            <Fragment key={s.id}>
              {i > 0 && (
                <Box aria-hidden sx={{ width: 60, flex: 'none', textAlign: 'center', color: '#b3a4be', fontSize: 11, lineHeight: 1.2, mt: '-22px' }}>
                  <Box component="b" sx={{ display: 'block', fontSize: 18, lineHeight: 1 }}>
                    {between ? '→' : '·'}
                  </Box>
                  {branches ? 'branch' : between?.how}
                </Box>
              )}
              <SceneTile
                scene={s}
                name={`${i + 1} · ${s.name}`}
                drawing={drawing}
                on={on}
                wrong={wrong}
                onMenu={(x, y) => setMenu({ x, y, scene: s })}
                onMove={by => moveScene(s.id, by < 0 ? Math.max(0, i - 1) : Math.min(design.scenes.length, i + 2))}
              />
            </Fragment>
          )
        })}
        <Box
          sx={{
            ml: 'auto',
            flex: 'none',
            display: 'flex',
            gap: 1,
            px: 2,
            mr: '-22px',
            alignItems: 'center',
            alignSelf: 'stretch',
            position: 'sticky',
            right: -22,
            background: ink[1],
          }}
        >
          {design.scenes.length > 1 && (
            <Box sx={{ display: 'flex', flexDirection: 'column', gap: '3px', alignItems: 'flex-end', mr: 1 }}>
              {buttonsOf(scene)
                .slice(0, 3)
                .map(b => (
                  <ButtonChip key={b.id} id={b.id} words={b.words} />
                ))}
            </Box>
          )}
          {talks(drawing.format, design) && (
            <Button onClick={() => setOpen('script')} sx={{ color: '#fff', border: '1px solid #6a597a' }}>
              Script
            </Button>
          )}
          {design.scenes.length > 1 && (
            <Button onClick={() => setOpen('map')} sx={{ color: '#fff', border: '1px solid #6a597a' }}>
              Map
            </Button>
          )}
          {scored && (
            <Button onClick={() => setOpen('scores')} sx={{ color: '#fff', border: '1px solid #6a597a' }}>
              Questions
            </Button>
          )}
          {computes && (
            <Button onClick={() => setOpen('formulas')} sx={{ color: '#fff', border: '1px solid #6a597a' }}>
              Formulas
            </Button>
          )}
          <Button
            // Until the snippets have loaded.
            disabled={snippets.isPending}
            onClick={e => (simple ? addScene() : setAdding(e.currentTarget))}
            startIcon={<Add />}
            sx={{ color: '#fff', border: '1px solid #6a597a' }}
          >
            {simple ? 'Thank-you' : 'Scene'}
          </Button>
        </Box>
        <Menu open={!!adding} anchorEl={adding} onClose={() => setAdding(null)} onClick={() => setAdding(null)}>
          {(Object.keys(newScenes) as (keyof typeof newScenes)[]).map(sort => (
            <MenuItem key={sort} onClick={() => addSort(sort)}>
              {newScenes[sort]}
            </MenuItem>
          ))}
          {kept.length > 0 && <Divider />}
          {kept.map(k => (
            <MenuItem key={k.id} onClick={() => addScene(k.body as Scene)}>
              {k.name}
            </MenuItem>
          ))}
        </Menu>
        {menu && (
          <Menu
            open
            onClose={() => setMenu(null)}
            onClick={() => setMenu(null)}
            anchorReference="anchorPosition"
            anchorPosition={{ left: menu.x, top: menu.y }}
          >
            <MenuItem onClick={() => duplicateScene(menu.scene.id)}>Duplicate</MenuItem>
            <MenuItem onClick={() => moveScene(menu.scene.id, 0)} disabled={design.scenes[0].id === menu.scene.id}>
              Make it the first scene
            </MenuItem>
            <MenuItem onClick={() => setKeeping(menu.scene)}>Save as snippet…</MenuItem>
            <MenuItem onClick={() => deleteScene(menu.scene.id)} disabled={design.scenes.length < 2}>
              Delete
            </MenuItem>
          </Menu>
        )}
        {keeping && <SaveSnippet kind="scene" body={keeping} name={keeping.name} onClose={() => setKeeping(null)} />}
        {Whole && (
          <Suspense>
            <Whole onClose={() => setOpen(null)} />
          </Suspense>
        )}
      </Box>
    </Dragging>
  )
})

interface Tile {
  scene: Scene
  name: string
  drawing: Drawing
  on: boolean
  /** What is wrong with it; empty: nothing. */
  wrong: string
  onMenu(x: number, y: number): void
  onMove(by: -1 | 1): void
}

/** A scene drawn small: pressed it is edited, dragged it goes elsewhere in the order. */
function SceneTile({ scene, name, drawing, on, wrong, onMenu, onMove }: Tile) {
  const { handle } = useMovable('scene:' + scene.id, name)
  const { landing } = useDrag<string>()
  return (
    <ButtonBase
      {...handle}
      data-scene={scene.id}
      onClick={() => useView.setState({ scene: scene.id, selected: 'frame', also: [] })}
      onContextMenu={e => {
        e.preventDefault()
        onMenu(e.clientX, e.clientY)
      }}
      onKeyDown={e => {
        if (e.altKey && (e.key === 'ArrowLeft' || e.key === 'ArrowRight')) {
          e.preventDefault()
          onMove(e.key === 'ArrowLeft' ? -1 : 1)
        }
      }}
      aria-pressed={on}
      sx={{
        flex: 'none',
        display: 'block',
        textAlign: 'start',
        touchAction: 'pan-x',
        '& > div': {
          borderRadius: '7px',
          outline: landing === scene.id ? '3px dashed #fff' : on ? `3px solid ${apricot.bright}` : wrong ? `2px dashed ${apricot.main}` : 'none',
          outlineOffset: 2,
        },
      }}
    >
      <div>
        <Miniature drawing={drawing} scene={scene.id} width={148} height={74} />
      </div>
      <Box component="span" sx={{ display: 'flex', mt: '7px', fontSize: 12.5, color: on ? '#fff' : '#cfc1d5', fontWeight: on ? 600 : 400, maxWidth: 152 }}>
        <Box component="span" sx={oneLine}>
          {name}
        </Box>
        {wrong && (
          <Box component="span" sx={{ color: apricot.bright, flex: 'none', whiteSpace: 'pre' }}>
            {' · '}
            {wrong}
          </Box>
        )}
      </Box>
    </ButtonBase>
  )
}

/** A button of the scene, to be dragged onto the scene that it should lead to. */
function ButtonChip({ id, words }: { id: string; words: string }) {
  const { handle } = useMovable('button:' + id, words)
  return (
    <Box
      {...handle}
      title="Drag onto the scene it should lead to"
      sx={{
        ...oneLine,
        fontSize: 12,
        border: '1px solid #6a597a',
        borderRadius: '12px',
        px: '9px',
        py: '1px',
        cursor: 'grab',
        touchAction: 'none',
        maxWidth: 150,
      }}
    >
      {words} ⟶
    </Box>
  )
}

const oneLine = { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }
