import Add from '@mui/icons-material/Add'
import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import ButtonBase from '@mui/material/ButtonBase'
import Divider from '@mui/material/Divider'
import Menu from '@mui/material/Menu'
import MenuItem from '@mui/material/MenuItem'
import { Fragment, lazy, memo, Suspense, useDeferredValue, useState } from 'react'
import type { Scene } from '../../../kinds/piece'
import { Miniature } from '../../parts/Miniature'
import { useDrawing } from '../../piece/drawing'
import { useSnippets } from '../../queries'
import { apricot, ink } from '../../theme'
import { flat } from '../document/tree'
import { SaveSnippet } from '../outline/SaveSnippet'
import { type Scened, useScene, useView } from '../view'
import { Formulas } from './Formulas'
import { talks } from './lines'
import { Scores } from './Scores'
import { addScene, addSort, buttonsOf, deadEnds, deleteScene, depths, duplicateScene, lead, moveScene, newScenes, waysOf } from './scenes'

// It brings the library that lays it out, which nothing else needs.
const SceneMap = lazy(() => import('./SceneMap'))
const Script = lazy(() => import('./Script'))

/** The scenes in order, each drawn small, and what leads from one to the next. */
export function Strip() {
  return <Scenes at={useDeferredValue(useScene())} />
}

// It follows a moment later: what is typed is painted before it is drawn small.
const Scenes = memo(function Scenes({ at }: { at: Scened }) {
  const { doc, design, scene } = at
  const [open, setOpen] = useState<'map' | 'script' | 'scores' | 'formulas' | null>(null)
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
  const drop = (e: React.DragEvent, to: Scene, index: number) => {
    e.preventDefault()
    const [what, id] = e.dataTransfer.getData('text/plain').split(':')
    if (what === 'scene' && id !== to.id) moveScene(id, index)
    if (what === 'button' && to.id !== scene.id) lead(scene.id, id, to.id)
  }
  return (
    <Box
      component="section"
      aria-label="Scenes"
      sx={{ gridColumn: '1 / -1', background: ink[1], color: '#eee2ef', display: 'flex', alignItems: 'center', px: '22px', gap: 0, overflowX: 'auto' }}
    >
      {design.scenes.map((s, i) => {
        const between = i > 0 ? ways.find(w => w.from === design.scenes[i - 1].id && w.to === s.id) : undefined
        const wrong = !reached.has(s.id) ? 'not reached' : dead.includes(s.id) ? 'dead end' : ''
        const on = s.id === scene.id
        return (
          <Fragment key={s.id}>
            {i > 0 && (
              <Box aria-hidden sx={{ width: 60, flex: 'none', textAlign: 'center', color: '#b3a4be', fontSize: 11, lineHeight: 1.2, mt: '-22px' }}>
                <Box component="b" sx={{ display: 'block', fontSize: 18, lineHeight: 1 }}>
                  {between ? '→' : '·'}
                </Box>
                {between?.how}
              </Box>
            )}
            <ButtonBase
              draggable
              onDragStart={e => e.dataTransfer.setData('text/plain', 'scene:' + s.id)}
              onDragOver={e => e.preventDefault()}
              onDrop={e => drop(e, s, i)}
              onClick={() => useView.setState({ scene: s.id, selected: 'frame', also: [] })}
              onContextMenu={e => {
                e.preventDefault()
                setMenu({ x: e.clientX, y: e.clientY, scene: s })
              }}
              onKeyDown={e => {
                if (e.altKey && (e.key === 'ArrowLeft' || e.key === 'ArrowRight')) {
                  e.preventDefault()
                  moveScene(s.id, e.key === 'ArrowLeft' ? Math.max(0, i - 1) : Math.min(design.scenes.length, i + 2))
                }
              }}
              aria-pressed={on}
              sx={{
                flex: 'none',
                display: 'block',
                textAlign: 'start',
                '& > div': {
                  borderRadius: '7px',
                  outline: on ? `3px solid ${apricot.bright}` : wrong ? `2px dashed ${apricot.main}` : 'none',
                  outlineOffset: 2,
                },
              }}
            >
              <div>
                <Miniature drawing={drawing} scene={s.id} width={148} height={74} />
              </div>
              <Box
                component="span"
                sx={{
                  display: 'block',
                  mt: '7px',
                  fontSize: 12.5,
                  color: on ? '#fff' : '#cfc1d5',
                  fontWeight: on ? 600 : 400,
                  maxWidth: 148,
                  overflow: 'hidden',
                  textOverflow: 'ellipsis',
                  whiteSpace: 'nowrap',
                }}
              >
                {i + 1} · {s.name}
                {wrong && (
                  <Box component="span" sx={{ color: apricot.bright }}>
                    {' '}
                    · {wrong}
                  </Box>
                )}
              </Box>
            </ButtonBase>
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
                <Box
                  key={b.id}
                  draggable
                  title="Drag onto the scene it should lead to"
                  onDragStart={e => e.dataTransfer.setData('text/plain', 'button:' + b.id)}
                  sx={{
                    fontSize: 12,
                    border: '1px solid #6a597a',
                    borderRadius: '12px',
                    px: '9px',
                    py: '1px',
                    cursor: 'grab',
                    maxWidth: 150,
                    overflow: 'hidden',
                    textOverflow: 'ellipsis',
                    whiteSpace: 'nowrap',
                  }}
                >
                  {b.words} ⟶
                </Box>
              ))}
          </Box>
        )}
        {talks(doc.format, design) && (
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
            Scores
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
        <Menu open onClose={() => setMenu(null)} onClick={() => setMenu(null)} anchorReference="anchorPosition" anchorPosition={{ left: menu.x, top: menu.y }}>
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
      {open === 'map' && (
        <Suspense>
          <SceneMap onClose={() => setOpen(null)} />
        </Suspense>
      )}
      {open === 'script' && (
        <Suspense>
          <Script onClose={() => setOpen(null)} />
        </Suspense>
      )}
      {open === 'scores' && <Scores onClose={() => setOpen(null)} />}
      {open === 'formulas' && <Formulas onClose={() => setOpen(null)} />}
    </Box>
  )
})
