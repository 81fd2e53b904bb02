import Close from '@mui/icons-material/Close'
import DragIndicator from '@mui/icons-material/DragIndicator'
import LockOutlined from '@mui/icons-material/LockOutlined'
import Box from '@mui/material/Box'
import ButtonBase from '@mui/material/ButtonBase'
import IconButton from '@mui/material/IconButton'
import ListSubheader from '@mui/material/ListSubheader'
import Menu from '@mui/material/Menu'
import MenuItem from '@mui/material/MenuItem'
import Tooltip from '@mui/material/Tooltip'
import Typography from '@mui/material/Typography'
import { memo, useDeferredValue, useRef, useState } from 'react'
import type { Block } from '../../../../kinds/piece'
import { blockKinds, more, nameOf, offers } from '../../../design/blocks'
import { holds, placeOf, type Spot } from '../../../design/tree'
import { Dragging, useDrag, useMovable } from '../../../parts/keys/dragging'
import { useKeptFocus } from '../../../parts/keys/keptFocus'
import { apricot, ink, paper, plum } from '../../../parts/look/theme'
import { useAllChecks } from '../../../piece/checks/useChecks'
import { useSnippets } from '../../../server/queries'
import { editText, selection } from '../../commands/actions'
import { changeDesign } from '../../commands/change'
import { addBlock, moveSelectedTo, putBlocks, removeSelected } from '../../commands/selection'
import { openMenu, type Scened, select, selectToo, useScene, useView } from '../../commands/view'

/** The blocks of the scene as a list, and those that can be added. Deferred, so that typing never waits for it. */
export function Outline() {
  return <List at={useDeferredValue(useScene())} />
}

const List = memo(function List({ at }: { at: Scened }) {
  const { design, scene, view, sceneAt } = at
  const notes = useAllChecks()
  const list = useRef<HTMLOListElement>(null)
  useKeptFocus(list, () => list.current?.querySelector<HTMLElement>(`[data-row="${CSS.escape(view.selected)}"] button`))
  const [menu, setMenu] = useState<HTMLElement | null>(null)
  const kept = useSnippets().data?.filter(k => k.kind === 'block') ?? []
  const rows = rowsOf(scene.blocks, '', 0)
  const notedAt = (block: Block) => {
    const at = `${sceneAt}.${placeOf(scene, block.id)}`
    // A note on what a box holds is not one on the box.
    return notes.some(n => n.at.startsWith(at) && !(holds(block) && n.at.includes('.blocks[', at.length)))
  }

  const landingAt = (x: number, y: number): Landing | null => {
    const within = list.current!.getBoundingClientRect()
    if (x < within.left || x > within.right || y < within.top - 20 || y > within.bottom + 20) return null
    const items = [...list.current!.querySelectorAll<HTMLElement>('[data-row]')]
    const under = items.find(i => y < i.getBoundingClientRect().bottom) ?? items.at(-1)
    const row = rows.find(r => r.block.id === under?.dataset.row)
    if (!under || !row) return null
    const r = under.getBoundingClientRect()
    const part = (y - r.top) / r.height
    if (holds(row.block) && part > 0.35) return { holder: row.block.id, index: 0, x: 16 + (row.depth + 1) * 16, y: r.bottom - within.top }
    if (part < 0.5) return { holder: row.holder, index: row.index, x: 16 + row.depth * 16, y: r.top - within.top }
    return { holder: row.holder, index: row.index + 1, x: 16 + row.depth * 16, y: r.bottom - within.top }
  }
  // One that is not selected is, and then dragged; several that are go together.
  const take = (id: string) => ![view.selected, ...view.also].includes(id) && select(id)
  return (
    <Box component="aside" aria-label="Outline" sx={{ background: paper.bench, borderRight: `1px solid ${paper.line}`, overflowY: 'auto', py: '14px' }}>
      <Typography variant="h4" component="h2" sx={{ px: '16px', mb: '6px' }} noWrap>
        {scene.name}
      </Typography>
      <Row glyph="▭" name="Frame" on={view.selected === 'frame'} depth={0} onClick={() => select('frame')} />
      {design.frame.close.shown && (
        <Row
          glyph="×"
          name="Close button"
          on={view.selected === 'close'}
          depth={0}
          onClick={() => select('close')}
          onRemove={() => {
            select('close')
            removeSelected()
          }}
        />
      )}
      <Dragging landingAt={landingAt} onStart={take} onDrop={(_, to: Landing) => moveSelectedTo(to)}>
        <Box component="ol" ref={list} sx={{ listStyle: 'none', m: 0, p: 0, position: 'relative' }}>
          {rows.map(({ block, depth }) => (
            <BlockRow key={block.id} block={block} depth={depth} on={view.selected === block.id || view.also.includes(block.id)} noted={notedAt(block)} />
          ))}
          <Mark />
        </Box>
      </Dragging>
      {scene.blocks.length === 0 && (
        <Typography variant="body2" color="textSecondary" sx={{ px: '16px', py: 1 }}>
          This scene is empty. Add a block below.
        </Typography>
      )}
      <Typography variant="h4" component="h2" sx={{ px: '16px', mt: '16px', mb: '4px' }}>
        Add
      </Typography>
      <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(60px, 1fr))', gap: '6px', px: '14px', py: '4px' }}>
        {offers.map(o => (
          <Tray key={o.name} name={o.name} onClick={() => addBlock(o)} />
        ))}
        <Tray name="More…" onClick={e => setMenu(e.currentTarget)} />
        {!design.frame.close.shown && (
          <Tray
            name="Close button"
            onClick={() => {
              changeDesign(d => void (d.frame.close.shown = true))
              select('close')
            }}
          />
        )}
      </Box>
      <Menu open={!!menu} anchorEl={menu} onClose={() => setMenu(null)} slotProps={{ list: { dense: true }, paper: { sx: { maxHeight: 460 } } }}>
        {more.map(o => (
          <MenuItem
            key={o.name}
            onClick={() => {
              addBlock(o)
              setMenu(null)
            }}
            sx={{ minHeight: 28, gap: 1.5 }}
          >
            <Glyph>{blockKinds[o.kind].glyph}</Glyph> {o.name}
          </MenuItem>
        ))}
        {kept.length > 0 && <ListSubheader sx={{ lineHeight: '30px' }}>Snippets</ListSubheader>}
        {kept.map(k => (
          <MenuItem
            key={k.id}
            onClick={() => {
              putBlocks([k.body as Block])
              setMenu(null)
            }}
            sx={{ minHeight: 28, gap: 1.5 }}
          >
            <Glyph>{blockKinds[(k.body as Block).kind].glyph}</Glyph> {k.name}
          </MenuItem>
        ))}
      </Menu>
    </Box>
  )
})

type Landing = Spot & { y: number; x: number }

/** Where what is dragged would land. */
function Mark() {
  const { landing } = useDrag<Landing>()
  return (
    landing && (
      <Box
        aria-hidden
        style={{ top: landing.y - 1, left: landing.x }}
        sx={{ position: 'absolute', right: 8, height: 3, borderRadius: 2, background: plum.main, pointerEvents: 'none' }}
      />
    )
  )
}

// Rows that did not change are not drawn again: there may be two hundred.
const BlockRow = memo(function BlockRow({ block, depth, on, noted }: { block: Block; depth: number; on: boolean; noted: boolean }) {
  const { handle } = useMovable(block.id, nameOf(block), !!block.locked)
  return (
    <Box component="li" data-row={block.id}>
      <Row
        handle={handle}
        glyph={blockKinds[block.kind].glyph}
        name={nameOf(block)}
        depth={depth}
        on={on}
        block={block}
        noted={noted}
        onClick={e => (e.shiftKey || e.ctrlKey || e.metaKey ? selectToo(block.id) : select(block.id))}
        onMenu={e => {
          e.preventDefault()
          if (!on) select(block.id)
          // Asked for by a key it comes without a place of its own.
          const row = e.currentTarget.getBoundingClientRect()
          openMenu(e.clientX || row.left + 40, e.clientY || row.bottom)
        }}
        onRemove={() => {
          select(block.id)
          removeSelected()
        }}
        onEnter={() => {
          const on = selection()
          if (editText.applies!(on)) editText.run(on)
          else document.querySelector<HTMLElement>('aside[aria-label=Settings] :is(input, textarea, [role=combobox], button)')?.focus()
        }}
      />
    </Box>
  )
})

interface OutlineRow {
  block: Block
  holder: string
  index: number
  depth: number
}

const rowsOf = (blocks: readonly Block[], holder: string, depth: number): OutlineRow[] =>
  blocks.flatMap((block, index) => [{ block, holder, index, depth }, ...(holds(block) ? rowsOf(block.blocks, block.id, depth + 1) : [])])

const Tray = ({ name, onClick }: { name: string; onClick(e: React.MouseEvent<HTMLElement>): void }) => (
  <ButtonBase
    onClick={onClick}
    aria-label={name === 'More…' ? 'More blocks' : `Add ${name.toLowerCase()}`}
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

const Glyph = ({ children }: { children: React.ReactNode }) => (
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
    {children}
  </Box>
)

interface RowProps {
  glyph: string
  name: string
  on: boolean
  depth: number
  block?: Block
  noted?: boolean
  /** What it is dragged by. */
  handle?: ReturnType<typeof useMovable>['handle']
  onClick(e: React.MouseEvent): void
  onMenu?(e: React.MouseEvent): void
  onRemove?(): void
  /** Enter on what is selected already. */
  onEnter?(): void
}

function Row({ glyph, name, on, depth, block, noted, handle, onClick, onMenu, onRemove, onEnter }: RowProps) {
  const marks = [block?.hide === 'phone' && 'hidden on phones', block?.hide === 'desktop' && 'phones only', block?.phone && 'different on phones']
    .filter(Boolean)
    .join(', ')
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
        onContextMenu={onMenu}
        onKeyDown={e => {
          // What is selected is known here before it is drawn so.
          if (e.key !== 'Enter' || !onEnter || useView.getState().selected !== block?.id) return
          e.preventDefault()
          e.stopPropagation()
          onEnter()
        }}
        aria-pressed={on}
        aria-description={noted ? 'There is a check about this' : undefined}
        sx={{
          flex: 1,
          minWidth: 0,
          justifyContent: 'flex-start',
          gap: '8px',
          p: '5px 4px 5px 16px',
          pl: 16 + depth * 16 + 'px',
          fontSize: 13.5,
          fontWeight: on ? 600 : 400,
          textAlign: 'start',
          opacity: block?.hide ? 0.65 : 1,
        }}
      >
        <Glyph>{glyph}</Glyph>
        <Box component="span" sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
          {name}
        </Box>
        {marks && (
          <Tooltip title={marks}>
            <Box component="span" sx={{ fontSize: 11, color: plum.main, flex: 'none' }} aria-label={marks}>
              ▯
            </Box>
          </Tooltip>
        )}
        {block?.locked && <LockOutlined titleAccess="Locked" sx={{ fontSize: 13, color: ink[3], flex: 'none' }} />}
        {noted && (
          <Box
            component="span"
            aria-hidden
            title="There is a check about this"
            sx={{ ml: 'auto', width: 8, height: 8, flex: 'none', borderRadius: '50%', background: apricot.main }}
          />
        )}
      </ButtonBase>
      {onRemove && !block?.locked && (
        <Tooltip title="Delete">
          <IconButton className="tools" size="small" aria-label={`Delete ${name}`} onClick={onRemove} sx={{ p: '2px' }}>
            <Close sx={{ fontSize: 15 }} />
          </IconButton>
        </Tooltip>
      )}
      {block && !block.locked && (
        <Box
          className="tools"
          component="button"
          {...handle}
          onClick={onMenu}
          aria-label={`Move ${name}: drag, or press for the ways to move it`}
          sx={{ touchAction: 'none', border: 0, p: '4px', background: 'none', cursor: 'grab', color: ink[3], lineHeight: 0, borderRadius: '4px' }}
        >
          <DragIndicator sx={{ fontSize: 16 }} />
        </Box>
      )}
    </Box>
  )
}
