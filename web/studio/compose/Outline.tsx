import { DragDropProvider } from '@dnd-kit/react'
import { isSortable, useSortable } from '@dnd-kit/react/sortable'
import Close from '@mui/icons-material/Close'
import DragIndicator from '@mui/icons-material/DragIndicator'
import Box from '@mui/material/Box'
import ButtonBase from '@mui/material/ButtonBase'
import IconButton from '@mui/material/IconButton'
import Tooltip from '@mui/material/Tooltip'
import Typography from '@mui/material/Typography'
import type { Block } from '../../kinds/piece'
import { useDraft } from '../bench/draft'
import { sorting } from '../parts/sorting'
import { apricot, ink, paper, plum } from '../theme'
import { addBlock, changeDesign, kindNames, moveBlock, nameOf, removeSelected, select, useScene } from './view'

const glyphs: Record<Block['kind'], string> = { heading: 'H', text: '¶', picture: '▥', field: '@', button: '▬' }

/** The scene as a list, and what can be added to it. */
export function Outline() {
  const { design, scene, view, sceneAt } = useScene()
  const notes = useDraft(s => s.notes)
  return (
    <Box component="aside" aria-label="Outline" sx={{ background: paper.bench, borderRight: `1px solid ${paper.line}`, overflowY: 'auto', py: '14px' }}>
      <Typography variant="h4" component="h2" sx={{ px: '16px', mb: '6px' }} noWrap>
        {scene.name}, top to bottom
      </Typography>
      <Row glyph="▭" name="Frame" on={view.selected === 'frame'} onClick={() => select('frame')} />
      {design.frame.close.shown && (
        <Row glyph="×" name="Close mark" on={view.selected === 'close'} onClick={() => select('close')} onRemove={() => remove('close')} />
      )}
      <DragDropProvider
        plugins={sorting}
        onDragEnd={event => {
          const { source } = event.operation
          if (!event.canceled && isSortable(source)) moveBlock(source.initialIndex, source.index)
        }}
      >
        <Box component="ol" sx={{ listStyle: 'none', m: 0, p: 0 }} key={scene.id}>
          {scene.blocks.map((block, i) => (
            <Item key={block.id} block={block} index={i} on={view.selected === block.id} noted={notes.some(n => n.at.startsWith(`${sceneAt}.blocks[${i}]`))} />
          ))}
        </Box>
      </DragDropProvider>
      {scene.blocks.length === 0 && (
        <Typography variant="body2" color="textSecondary" sx={{ px: '16px', py: 1 }}>
          This scene is empty. Add a block below.
        </Typography>
      )}
      <Typography variant="h4" component="h2" sx={{ px: '16px', mt: '16px', mb: '4px' }}>
        Add
      </Typography>
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr 1fr', gap: '6px', px: '14px', py: '4px' }}>
        {(Object.keys(kindNames) as Block['kind'][]).map(kind => (
          <Tray key={kind} name={kindNames[kind]} onClick={() => addBlock(kind)} />
        ))}
        {!design.frame.close.shown && (
          <Tray
            name="Close"
            onClick={() => {
              changeDesign(d => void (d.frame.close.shown = true))
              select('close')
            }}
          />
        )}
      </Box>
    </Box>
  )
}

function remove(id: string) {
  select(id)
  removeSelected()
}

const Tray = ({ name, onClick }: { name: string; onClick(): void }) => (
  <ButtonBase
    onClick={onClick}
    aria-label={`Add ${name.toLowerCase()}`}
    sx={{
      border: `1px solid ${paper.line}`,
      background: paper.sheet,
      borderRadius: '6px',
      fontSize: 12,
      p: '7px 2px',
      color: ink[2],
      '&:hover': { borderColor: plum.main, color: plum.main },
    }}
  >
    {name}
  </ButtonBase>
)

function Item({ block, index, on, noted }: { block: Block; index: number; on: boolean; noted: boolean }) {
  const { ref, handleRef, isDragging } = useSortable({ id: block.id, index })
  return (
    <Box component="li" ref={ref} sx={{ opacity: isDragging ? 0.5 : 1 }}>
      <Row
        glyph={glyphs[block.kind]}
        name={nameOf(block)}
        on={on}
        noted={noted}
        onClick={() => select(block.id)}
        onRemove={() => remove(block.id)}
        handle={handleRef}
      />
    </Box>
  )
}

interface RowProps {
  glyph: string
  name: string
  on: boolean
  noted?: boolean
  onClick(): void
  onRemove?(): void
  handle?: (element: Element | null) => void
}

function Row({ glyph, name, on, noted, onClick, onRemove, handle }: RowProps) {
  return (
    <Box
      sx={{
        display: 'flex',
        alignItems: 'center',
        pr: '6px',
        background: on ? plum.wash : 'none',
        boxShadow: on ? `inset 3px 0 ${plum.main}` : 'none',
        '& .tools': { opacity: 0 },
        '&:hover .tools, &:focus-within .tools': { opacity: 1 },
        '&:hover': { background: on ? plum.wash : 'rgb(106 42 91 / .05)' },
      }}
    >
      <ButtonBase
        onClick={onClick}
        aria-pressed={on}
        sx={{
          flex: 1,
          minWidth: 0,
          justifyContent: 'flex-start',
          gap: '8px',
          p: '5px 4px 5px 16px',
          fontSize: 13.5,
          fontWeight: on ? 600 : 400,
          textAlign: 'start',
        }}
      >
        <Box
          component="span"
          aria-hidden
          sx={{
            width: 18,
            height: 18,
            flex: 'none',
            borderRadius: '4px',
            background: '#eadfcd',
            fontSize: 11,
            textAlign: 'center',
            lineHeight: '18px',
            color: ink[2],
          }}
        >
          {glyph}
        </Box>
        <Box component="span" sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
          {name}
        </Box>
        {noted && (
          <Box
            component="span"
            title="There is a note about this"
            sx={{ ml: 'auto', width: 8, height: 8, flex: 'none', borderRadius: '50%', background: apricot.main }}
          />
        )}
      </ButtonBase>
      {onRemove && (
        <Tooltip title="Take out">
          <IconButton className="tools" size="small" aria-label={`Take out ${name}`} onClick={onRemove} sx={{ p: '2px' }}>
            <Close sx={{ fontSize: 15 }} />
          </IconButton>
        </Tooltip>
      )}
      {handle && (
        <Box
          ref={handle}
          className="tools"
          component="button"
          aria-label={`Move ${name}`}
          sx={{ border: 0, p: '2px', background: 'none', cursor: 'grab', color: ink[3], lineHeight: 0, touchAction: 'none', borderRadius: '4px' }}
        >
          <DragIndicator sx={{ fontSize: 16 }} />
        </Box>
      )}
    </Box>
  )
}
