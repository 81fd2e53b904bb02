import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import ButtonBase from '@mui/material/ButtonBase'
import InputBase from '@mui/material/InputBase'
import Tooltip from '@mui/material/Tooltip'
import { useEffect, useLayoutEffect, useRef, useState } from 'react'
import type { Drawing } from '../../kinds/piece'
import { play } from '../../page/renderer'
import { useDraft } from '../bench/draft'
import { History } from '../bench/History'
import { useSite } from '../queries'
import { pathOf } from '../reach/rules'
import { ink, paper } from '../theme'
import { Stage } from './Stage'
import { useScene, useView } from './view'

/** Widths of the pages a design is looked at on, in CSS pixels. */
const widths = { desktop: 1100, phone: 390 }
const phoneHeight = 760

/** The scene on a page of the site, drawn by the renderer visitors get. */
export function Canvas() {
  const { doc, design, scene, view, v } = useScene()
  const site = useSite()
  const [path, setPath] = useState(() => pathOf(doc.rule))
  const [playing, setPlaying] = useState(false)
  const desk = useRef<HTMLDivElement>(null)
  const [room, setRoom] = useState({ width: 740, height: 480 })
  useLayoutEffect(() => {
    const eye = new ResizeObserver(([entry]) => setRoom({ width: entry.contentRect.width, height: entry.contentRect.height }))
    eye.observe(desk.current!)
    return () => eye.disconnect()
  }, [])
  const width = widths[view.device]
  const scale = view.device === 'phone' ? Math.min(1, (room.height - 24) / phoneHeight) : Math.min(1, room.width / width)
  const height = view.device === 'phone' ? phoneHeight : room.height / scale
  const drawing: Drawing = { format: doc.format, frame: design.frame, scenes: design.scenes }
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', minWidth: 0, minHeight: 0 }}>
      <Box
        sx={{
          height: 40,
          flex: 'none',
          display: 'flex',
          alignItems: 'center',
          gap: '12px',
          px: '14px',
          background: paper.bench,
          borderBottom: `1px solid ${paper.line}`,
          fontSize: 13,
        }}
      >
        <Segments
          label="Width of the page"
          options={[
            ['desktop', 'Desktop'],
            ['phone', 'Phone'],
          ]}
          value={view.device}
          onChange={device => useView.setState({ device })}
        />
        {doc.split.variants.length > 1 && (
          <Segments
            label="Version"
            options={doc.split.variants.map((one, i) => [String(i), 'ABCDEFGHIJ'[i], one.name])}
            value={String(v)}
            onChange={i => useView.setState({ variant: Number(i), selected: 'frame' })}
          />
        )}
        <Box sx={{ display: 'flex', alignItems: 'center', gap: '6px', color: ink[2], minWidth: 0 }}>
          on
          <PagePath path={path} onChange={setPath} />
        </Box>
        <History />
        <Box component="span" sx={{ color: ink[2] }}>
          {Math.round(scale * 100)} %
        </Box>
        <Button variant="outlined" size="small" sx={{ py: '2px', fontSize: 13 }} onClick={() => setPlaying(!playing)} aria-pressed={playing}>
          {playing ? 'Stop' : 'Play'}
        </Button>
      </Box>
      <Box
        ref={desk}
        sx={{
          flex: 1,
          minHeight: 0,
          position: 'relative',
          overflow: 'hidden',
          background: '#e9dfcd',
          display: 'grid',
          placeItems: view.device === 'phone' ? 'center' : 'start',
        }}
      >
        <Box
          sx={{
            width: width * scale,
            height: height * scale,
            position: 'relative',
            overflow: 'hidden',
            ...(view.device === 'phone' && { borderRadius: '18px', boxShadow: `0 0 0 5px ${ink[1]}, 0 14px 40px rgb(36 26 46 / .3)` }),
          }}
        >
          <Box sx={{ width, height, transform: `scale(${scale})`, transformOrigin: '0 0', position: 'relative', background: '#fff' }}>
            <Box
              component="iframe"
              title="Page of the site"
              sandbox=""
              inert
              tabIndex={-1}
              src={site.origins[0] ? site.origins[0] + path : 'about:blank'}
              sx={{ position: 'absolute', inset: 0, width: '100%', height: '100%', border: 0, pointerEvents: 'none' }}
            />
            {playing ? <Played drawing={drawing} onEnd={() => setPlaying(false)} /> : <Stage drawing={drawing} scene={scene} scale={scale} />}
          </Box>
        </Box>
      </Box>
    </Box>
  )
}

function Segments({ label, options, value, onChange }: { label: string; options: string[][]; value: string; onChange(value: never): void }) {
  return (
    <Box role="group" aria-label={label} sx={{ display: 'flex', border: `1px solid ${paper.strong}`, borderRadius: '6px', flex: 'none' }}>
      {options.map(([key, name, more]) => (
        <Tooltip key={key} title={more ?? ''}>
          <ButtonBase
            aria-pressed={value === key}
            onClick={() => onChange(key as never)}
            sx={{ p: '3px 11px', borderRadius: '5px', fontSize: 13, ...(value === key && { background: ink[1], color: '#fff' }) }}
          >
            {name}
          </ButtonBase>
        </Tooltip>
      ))}
    </Box>
  )
}

function PagePath({ path, onChange }: { path: string; onChange(path: string): void }) {
  const [typed, setTyped] = useState(path)
  const use = () => {
    const next = '/' + typed.trim().replace(/^\/+/, '')
    setTyped(next)
    onChange(next)
  }
  return (
    <InputBase
      value={typed}
      onChange={e => setTyped(e.target.value)}
      onBlur={use}
      onKeyDown={e => e.key === 'Enter' && use()}
      inputProps={{ 'aria-label': 'Page of the site', maxLength: 500, spellCheck: false }}
      sx={{ width: 150, '& input': { fontSize: 13, fontWeight: 600, p: '2px 4px', borderRadius: '4px', '&:hover, &:focus': { background: paper.sheet } } }}
    />
  )
}

/** The piece as a visitor has it, sent nowhere. */
function Played({ drawing, onEnd }: { drawing: Drawing; onEnd(): void }) {
  const box = useRef<HTMLDivElement>(null)
  const end = useRef(onEnd)
  end.current = onEnd
  const first = useRef(useDraft.getState().doc && drawing)
  useEffect(() => play(box.current!, first.current!, () => end.current()), [])
  return <Box ref={box} data-played sx={{ position: 'absolute', inset: 0, transform: 'translateZ(0)', overflow: 'hidden' }} />
}
