import HelpOutline from '@mui/icons-material/HelpOutlined'
import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import ButtonBase from '@mui/material/ButtonBase'
import IconButton from '@mui/material/IconButton'
import InputBase from '@mui/material/InputBase'
import Tooltip from '@mui/material/Tooltip'
import { memo, useEffect, useState } from 'react'
import { useShallow } from 'zustand/react/shallow'
import { useDraft } from '../bench/draft'
import { History } from '../bench/History'
import { ink, paper } from '../theme'
import { Shortcuts } from './Shortcuts'
import { Versions } from './Versions'
import { setDevice, useView, widths } from './view'

interface Props {
  path: string
  onPath(path: string): void
  playing: boolean
  onPlay(playing: boolean): void
  /** In percent; 0: there is no room to say so. */
  scale: number
}

/** How the page is looked at, above it. It is not drawn anew as words are typed. */
export const Toolbar = memo(function Toolbar({ path, onPath, playing, onPlay, scale }: Props) {
  const { device, width, variant } = useView(useShallow(({ device, width, variant }) => ({ device, width, variant })))
  const names = useDraft(useShallow(s => s.doc?.split.variants.map(v => v.name) ?? []))
  return (
    <Box
      sx={{
        height: 40,
        flex: 'none',
        display: 'flex',
        alignItems: 'center',
        gap: '10px',
        px: '12px',
        background: paper.bench,
        borderBottom: `1px solid ${paper.line}`,
        fontSize: 13,
      }}
    >
      <Segments
        label="Width of the page"
        options={[
          ['desktop', 'Desktop'],
          ['tablet', 'Tablet'],
          ['phone', 'Phone'],
          ['any', device === 'any' ? `${width} px` : '↔', 'Any width: drag the edge of the page'],
        ]}
        value={device}
        onChange={setDevice}
      />
      {names.length > 1 && (
        <Segments
          label="Version"
          options={names.map((name, i) => [String(i), 'ABCDEFGHIJ'[i], name])}
          value={String(Math.min(variant, names.length - 1))}
          onChange={i => useView.setState({ variant: Number(i), selected: 'frame', also: [] })}
        />
      )}
      <Box sx={{ display: 'flex', alignItems: 'center', gap: '6px', color: ink[2], minWidth: 0 }}>
        on
        <PagePath path={path} onChange={onPath} />
      </Box>
      <History />
      {scale > 0 && (
        <Box component="span" sx={{ color: ink[2], whiteSpace: 'nowrap' }}>
          {scale} %
        </Box>
      )}
      <Versions />
      <ShortcutsButton />
      <Button variant="outlined" size="small" sx={{ py: '2px', fontSize: 13 }} onClick={() => onPlay(!playing)} aria-pressed={playing}>
        {playing ? 'Stop' : 'Play'}
      </Button>
    </Box>
  )
})

function ShortcutsButton() {
  const [open, setOpen] = useState(false)
  useEffect(() => {
    const ask = (e: KeyboardEvent) => {
      const typing = e.composedPath().some(t => t instanceof HTMLElement && (t.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(t.tagName)))
      if (e.key === '?' && !typing && !e.ctrlKey && !e.metaKey) setOpen(true)
    }
    document.addEventListener('keydown', ask)
    return () => document.removeEventListener('keydown', ask)
  }, [])
  return (
    <>
      <Tooltip title="Keys (?)">
        <IconButton size="small" aria-label="Keys" onClick={() => setOpen(true)}>
          <HelpOutline fontSize="small" />
        </IconButton>
      </Tooltip>
      {open && <Shortcuts onClose={() => setOpen(false)} />}
    </>
  )
}

function Segments({ label, options, value, onChange }: { label: string; options: string[][]; value: string; onChange(value: never): void }) {
  return (
    <Box role="group" aria-label={label} sx={{ display: 'flex', border: `1px solid ${paper.strong}`, borderRadius: '6px', flex: 'none' }}>
      {options.map(([key, name, more]) => (
        <Tooltip key={key} title={more ?? (key in widths ? `${widths[key as 'phone']} px` : '')}>
          <ButtonBase
            aria-pressed={value === key}
            aria-label={key === 'any' ? 'Any width' : undefined}
            onClick={() => onChange(key as never)}
            sx={{ p: '3px 10px', borderRadius: '5px', fontSize: 13, ...(value === key && { background: ink[1], color: '#fff' }) }}
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
      sx={{
        minWidth: 60,
        maxWidth: 150,
        '& input': { fontSize: 13, fontWeight: 600, p: '2px 4px', borderRadius: '4px', '&:hover, &:focus': { background: paper.sheet } },
      }}
    />
  )
}
