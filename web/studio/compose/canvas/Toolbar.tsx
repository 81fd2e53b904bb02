import Desktop from '@mui/icons-material/DesktopWindowsOutlined'
import HelpOutline from '@mui/icons-material/HelpOutlined'
import Phone from '@mui/icons-material/PhoneIphone'
import Tablet from '@mui/icons-material/TabletMac'
import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import ButtonBase from '@mui/material/ButtonBase'
import IconButton from '@mui/material/IconButton'
import InputBase from '@mui/material/InputBase'
import Tooltip from '@mui/material/Tooltip'
import { memo, useState } from 'react'
import { useShallow } from 'zustand/react/shallow'
import { openShortcuts } from '../../parts/keys/actions'
import { ink, paper } from '../../parts/look/theme'
import { letters } from '../../parts/words/say'
import { useDraft } from '../../piece/draft'
import { UndoButtons } from '../../piece/UndoButtons'
import { setDevice, useView, widths } from '../commands/view'
import { VersionHistory } from '../panels/VersionHistory'

interface Props {
  path: string
  onPath(path: string): void
  playing: boolean
  onPlay(playing: boolean): void
  /** In percent; 0: there is no room to say so. */
  scale: number
}

/** Above the page: how wide it is, which variant and page are shown. Memoised, so that typing does not draw it again. */
export const Toolbar = memo(function Toolbar({ path, onPath, playing, onPlay, scale }: Props) {
  const { device, width, variant } = useView(useShallow(({ device, width, variant }) => ({ device, width, variant })))
  const names = useDraft(useShallow(s => s.doc?.split.variants.map(v => v.name) ?? []))
  return (
    <Box
      sx={{
        minHeight: 40,
        flex: 'none',
        display: 'flex',
        flexWrap: 'wrap',
        alignItems: 'center',
        gap: '2px 10px',
        px: '12px',
        py: '3px',
        background: paper.bench,
        borderBottom: `1px solid ${paper.line}`,
        fontSize: 13,
      }}
    >
      <Segments
        label="Width of the page"
        options={[
          { key: 'desktop', name: 'Desktop', title: `${widths.desktop} px`, icon: <Desktop fontSize="inherit" /> },
          { key: 'tablet', name: 'Tablet', title: `${widths.tablet} px`, icon: <Tablet fontSize="inherit" /> },
          { key: 'phone', name: 'Phone', title: `${widths.phone} px`, icon: <Phone fontSize="inherit" /> },
          { key: 'any', name: 'Custom width', shown: device === 'any' ? `${width} px` : '↔', title: 'Custom width: drag the edge of the page' },
        ]}
        value={device}
        onChange={setDevice}
      />
      {names.length > 1 && (
        <Segments
          label="Variant"
          options={names.map((name, i) => ({ key: String(i), name: letters[i], shown: letters[i], title: name }))}
          value={String(Math.min(variant, names.length - 1))}
          onChange={i => useView.setState({ variant: Number(i), selected: 'frame', also: [] })}
        />
      )}
      <Box sx={{ display: 'flex', alignItems: 'center', gap: '6px', color: ink[2], minWidth: 0 }}>
        <Box component="span" sx={{ display: { xs: 'none', lg: 'inline' } }}>
          Page
        </Box>
        <PagePath path={path} onChange={onPath} />
      </Box>
      <UndoButtons />
      {scale > 0 && (
        <Box component="span" sx={{ color: ink[2], whiteSpace: 'nowrap' }}>
          {scale} %
        </Box>
      )}
      <VersionHistory />
      <Tooltip title="Keyboard shortcuts (?)">
        <IconButton size="small" aria-label="Keyboard shortcuts" onClick={openShortcuts}>
          <HelpOutline fontSize="small" />
        </IconButton>
      </Tooltip>
      <Button variant="outlined" size="small" sx={{ py: '2px', fontSize: 13 }} onClick={() => onPlay(!playing)} aria-pressed={playing}>
        {playing ? 'Stop' : 'Play'}
      </Button>
    </Box>
  )
})

interface Segment {
  key: string
  name: string
  title: string
  /** What is shown, where it is not the name. */
  shown?: string
  /** Stands for the name where there is little room. */
  icon?: React.ReactNode
}

function Segments({ label, options, value, onChange }: { label: string; options: Segment[]; value: string; onChange(value: never): void }) {
  return (
    <Box role="group" aria-label={label} sx={{ display: 'flex', border: `1px solid ${paper.strong}`, borderRadius: '6px', flex: 'none' }}>
      {options.map(({ key, name, title, shown, icon }) => (
        <Tooltip key={key} title={icon ? `${name}, ${title}` : title}>
          <ButtonBase
            aria-pressed={value === key}
            aria-label={name}
            onClick={() => onChange(key as never)}
            sx={{ p: '3px 10px', borderRadius: '5px', fontSize: 13, minHeight: 24, ...(value === key && { background: ink[1], color: '#fff' }) }}
          >
            {icon ? (
              <>
                <Box component="span" sx={{ display: { xs: 'none', lg: 'inline' } }}>
                  {name}
                </Box>
                <Box component="span" sx={{ display: { xs: 'inline-flex', lg: 'none' }, fontSize: 16 }}>
                  {icon}
                </Box>
              </>
            ) : (
              (shown ?? name)
            )}
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
