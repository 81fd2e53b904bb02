import Add from '@mui/icons-material/Add'
import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import ButtonBase from '@mui/material/ButtonBase'
import { Fragment } from 'react'
import type { Drawing, Scene } from '../../kinds/piece'
import { Miniature } from '../parts/Miniature'
import { apricot, ink } from '../theme'
import { changeDesign, freshID, useScene, useView } from './view'

/** The scenes in order, each drawn small, and what leads from one to the next. */
export function Strip() {
  const { doc, design, scene } = useScene()
  const drawing: Drawing = { format: doc.format, frame: design.frame, scenes: design.scenes }
  const add = () => {
    const id = freshID(
      'scene',
      design.scenes.map(s => s.id),
    )
    const thanks = !design.scenes.some(s => s.kind === 'thanks')
    changeDesign(d => {
      d.scenes.push(
        thanks
          ? {
              id,
              name: 'Thank-you',
              kind: 'thanks',
              blocks: [
                { kind: 'heading', id: 'title', text: 'Thank you, {first name|friend}', size: 28, align: 'start' },
                { kind: 'button', id: 'done', words: 'Back to the page', press: { do: 'close' }, counts: false, quiet: false },
              ],
            }
          : {
              id,
              name: `Scene ${design.scenes.length + 1}`,
              kind: 'plain',
              blocks: [{ kind: 'heading', id: 'title', text: 'A new scene', size: 28, align: 'start' }],
            },
      )
      // A form that led nowhere now leads to its thank-you.
      if (thanks) for (const s of d.scenes) for (const b of s.blocks) if (b.kind === 'button' && b.press.do === 'send' && !b.press.scene) b.press.scene = id
    })
    useView.setState({ scene: id, selected: 'frame' })
  }
  return (
    <Box
      component="section"
      aria-label="Scenes"
      sx={{ gridColumn: '1 / -1', background: ink[1], color: '#eee2ef', display: 'flex', alignItems: 'center', px: '22px', gap: 0, overflowX: 'auto' }}
    >
      {design.scenes.map((s, i) => (
        <Fragment key={s.id}>
          {i > 0 && (
            <Box aria-hidden sx={{ width: 64, flex: 'none', textAlign: 'center', color: '#b3a4be', fontSize: 11, lineHeight: 1.2, mt: '-22px' }}>
              <Box component="b" sx={{ display: 'block', fontSize: 18, lineHeight: 1 }}>
                {leads(design.scenes[i - 1], s) ? '→' : '·'}
              </Box>
              {leads(design.scenes[i - 1], s)}
            </Box>
          )}
          <ButtonBase
            onClick={() => useView.setState({ scene: s.id, selected: 'frame' })}
            aria-pressed={s.id === scene.id}
            sx={{
              flex: 'none',
              display: 'block',
              textAlign: 'start',
              '& > div': { borderRadius: '7px', outline: s.id === scene.id ? `3px solid ${apricot.bright}` : 'none', outlineOffset: 2 },
            }}
          >
            <div>
              <Miniature drawing={drawing} scene={s.id} width={148} height={74} />
            </div>
            <Box
              component="span"
              sx={{ display: 'block', mt: '7px', fontSize: 12.5, color: s.id === scene.id ? '#fff' : '#cfc1d5', fontWeight: s.id === scene.id ? 600 : 400 }}
            >
              {i + 1} · {s.name}
            </Box>
          </ButtonBase>
        </Fragment>
      ))}
      <Button onClick={add} startIcon={<Add />} sx={{ ml: 'auto', flex: 'none', color: '#fff', border: '1px solid #6a597a' }}>
        {design.scenes.some(s => s.kind === 'thanks') ? 'Scene' : 'Thank-you'}
      </Button>
    </Box>
  )
}

/** How one scene leads to another, in a word; empty if it does not. */
function leads(from: Scene, to: Scene): string {
  for (const b of from.blocks) if (b.kind === 'button' && b.press.scene === to.id) return b.press.do === 'send' ? 'sent' : 'pressed'
  return ''
}
