import Close from '@mui/icons-material/Close'
import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogTitle from '@mui/material/DialogTitle'
import IconButton from '@mui/material/IconButton'
import InputBase from '@mui/material/InputBase'
import MenuItem from '@mui/material/MenuItem'
import Select from '@mui/material/Select'
import { useEffect, useRef, useState } from 'react'
import { flushSync } from 'react-dom'
import type { Design, Drawing, Field } from '../../../../kinds/piece'
import { asks, nameOf } from '../../../design/blocks'
import {
  addAddress,
  addBranch,
  addFreeQuestion,
  addLine,
  addLink,
  addQuestion,
  dropBranch,
  dropLine,
  goOn,
  type Line,
  linesOf,
  type links,
  setAnswers,
} from '../../../design/lines'
import { apricot, ink, paper, plum } from '../../../parts/look/theme'
import { draw, erase } from '../../../parts/pages/renderer'
import { useDrawing } from '../../../piece/drawing'
import { historyKeys } from '../../../piece/UndoButtons'
import { changeDesign } from '../../commands/change'
import { useScene, useView } from '../../commands/view'
import { PlayedThrough, usePlayThrough } from './PlayThrough'

/** The conversation as lines to type, in the order it is spoken. */
export default function Script({ onClose }: { onClose(): void }) {
  const { doc, design, scene } = useScene()
  const drawing = useDrawing(doc, design)
  const [seed, setSeed] = useState(0)
  const played = usePlayThrough(drawing, seed)
  const list = useRef<HTMLDivElement>(null)
  const lines = linesOf(design, nameOf)
  /** Changes the design, and puts the keyboard into the line it gives. */
  const act = (how: (d: Design) => string | undefined, belongsTo = '') => {
    let to: string | undefined
    // The line is there before the next key is pressed.
    flushSync(() =>
      changeDesign(d => {
        to = how(d)
      }, belongsTo),
    )
    // What is new is typed over.
    if (to) list.current?.querySelector<HTMLInputElement>(`[data-line~="${to}"] input`)?.select()
  }
  const see = (id: string) => id !== scene.id && useView.setState({ scene: id, selected: 'frame', also: [] })
  return (
    <Dialog open onClose={onClose} maxWidth={false} fullWidth aria-labelledby="script-title" slotProps={{ paper: { sx: { maxWidth: 1180, height: '92vh' } } }}>
      <DialogTitle id="script-title" variant="h2" sx={{ display: 'flex', alignItems: 'center', whiteSpace: 'nowrap' }}>
        Script
        <Box component="span" sx={{ ml: 2, fontSize: 13, fontFamily: 'inherit', color: ink[2], fontWeight: 400, overflow: 'hidden', textOverflow: 'ellipsis' }}>
          In the order of the conversation. Lines that follow one answer are indented below it. Enter adds a line.
        </Box>
        <Button variant="outlined" size="small" onClick={onClose} sx={{ ml: 'auto', flex: 'none' }}>
          Close
        </Button>
      </DialogTitle>
      <Box
        sx={{ display: 'grid', gridTemplateColumns: 'minmax(0, 1fr) 372px', minHeight: 0, flex: 1, borderTop: `1px solid ${paper.line}` }}
        onKeyDown={e => historyKeys(e.nativeEvent) && e.preventDefault()}
      >
        <Box ref={list} role="list" aria-label="Lines" sx={{ overflowY: 'auto', p: '16px 24px 28px', background: paper.page }}>
          {lines.map((l, i) => (
            <Row
              key={`${l.scene} ${l.what} ${'block' in l ? l.block : ''} ${'choice' in l ? l.choice : ''} ${i}`}
              line={l}
              design={design}
              on={l.scene === scene.id}
              act={act}
              see={see}
            />
          ))}
        </Box>
        <Box sx={{ borderLeft: `1px solid ${paper.line}`, overflowY: 'auto', background: paper.sheet }}>
          <Preview drawing={drawing} scene={scene.id} />
          <Box sx={{ p: '4px 0 16px' }}>
            <PlayedThrough design={design} played={played} narrow onAgain={() => setSeed(seed + 1)} />
          </Box>
        </Box>
      </Box>
    </Dialog>
  )
}

/** The scene that is written on, as a phone has it. */
function Preview({ drawing, scene }: { drawing: Drawing; scene: string }) {
  const at = useRef<HTMLDivElement>(null)
  useEffect(() => {
    if (at.current) draw(at.current, drawing, scene, { phone: true })
  }, [drawing, scene])
  useEffect(() => {
    const element = at.current!
    return () => erase(element)
  }, [])
  return <div ref={at} inert style={{ position: 'relative', height: 400, transform: 'translateZ(0)', overflow: 'hidden', background: paper.bench }} />
}

interface RowProps {
  line: Line
  design: Design
  on: boolean
  act(how: (d: Design) => string | undefined, belongsTo?: string): void
  see(scene: string): void
}

const blockOf = (d: Design, scene: string, block: string) => d.scenes.find(s => s.id === scene)!.blocks.find(b => b.id === block)!

function Row({ line: l, design, on, act, see }: RowProps) {
  const names = 'block' in l ? `${l.block} ${l.what === 'answer' ? `${l.block}-${l.choice}` : ''} ${l.scene}` : l.scene
  return (
    <Box
      role="listitem"
      data-line={names}
      data-what={l.what}
      onFocus={() => see(l.scene)}
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: '8px',
        ml: `${l.depth * 26}px`,
        minHeight: 34,
        borderLeft: l.depth ? `2px solid ${paper.line}` : 'none',
        pl: l.depth ? '12px' : 0,
        background: on ? paper.bench : 'none',
      }}
    >
      <What line={l} design={design} act={act} see={see} />
    </Box>
  )
}

const mark = (sign: string, colour: string = ink[2]) => (
  <Box component="span" aria-hidden sx={{ width: 18, flex: 'none', color: colour, textAlign: 'center', fontWeight: 700 }}>
    {sign}
  </Box>
)

const small = { fontSize: 12.5, minWidth: 0, px: '8px', py: '1px' }

function What({ line: l, design, act, see }: Omit<RowProps, 'on'>) {
  const input = (
    value: string,
    label: string,
    put: (d: Design, v: string) => void,
    more: { enter?(d: Design): string | undefined; empty?(d: Design): void; bold?: boolean; max?: number } = {},
  ) => (
    <InputBase
      fullWidth
      value={value}
      onChange={e => act(d => void put(d, e.target.value), label)}
      onKeyDown={e => {
        if (e.key === 'Enter' && more.enter) {
          e.preventDefault()
          act(more.enter)
        }
        if (e.key === 'Backspace' && !value && more.empty) {
          e.preventDefault()
          act(d => void more.empty!(d))
        }
      }}
      inputProps={{ 'aria-label': label, maxLength: more.max ?? 2000 }}
      sx={{
        fontSize: 15,
        fontWeight: more.bold ? 650 : 400,
        flex: 1,
        minWidth: 0,
        '& input': { p: '5px 6px', borderRadius: '6px' },
        '& input:focus': { background: paper.sheet, boxShadow: `0 0 0 2px ${plum.main}` },
      }}
    />
  )
  const remove = (label: string, how: (d: Design) => void) => (
    <IconButton size="small" aria-label={label} onClick={() => act(d => void how(d))} sx={{ opacity: 0.55, '&:hover, &:focus-visible': { opacity: 1 } }}>
      <Close sx={{ fontSize: 15 }} />
    </IconButton>
  )
  switch (l.what) {
    case 'say':
      return (
        <>
          {mark('–')}
          {input(
            l.text,
            'Line',
            (d, v) => {
              const b = blockOf(d, l.scene, l.block)
              if ('text' in b) b.text = v
            },
            { enter: d => addLine(d, l.scene, l.block), empty: d => dropLine(d, l.scene, l.block) },
          )}
          {remove('Delete the line', d => dropLine(d, l.scene, l.block))}
        </>
      )
    case 'ask':
      return (
        <>
          {mark('?', plum.main)}
          {input(
            l.field.label,
            'Question',
            (d, v) => {
              const b = blockOf(d, l.scene, l.block) as Field
              b.label = v
              delete b.bare
            },
            { bold: true, max: 200 },
          )}
          {!l.field.choices && (
            <Box component="span" sx={{ fontSize: 12.5, color: ink[2], whiteSpace: 'nowrap' }}>
              {l.field.ask === 'email'
                ? 'an email address'
                : /^(text|long)$/.test(l.field.ask)
                  ? 'a free answer'
                  : `a ${asks[l.field.ask as keyof typeof asks]?.toLowerCase() ?? l.field.ask}`}
            </Box>
          )}
          {l.field.choices && (
            <Button size="small" sx={small} onClick={() => act(d => addAnswer(d, l.scene, l.block))}>
              Add answer
            </Button>
          )}
        </>
      )
    case 'answer':
      return (
        <>
          {mark('›', plum.main)}
          {input(
            l.text,
            'Answer',
            (d, v) => {
              const c = (blockOf(d, l.scene, l.block) as Field).choices!.find(x => x.id === l.choice)!
              c.label = v
            },
            {
              enter: d => addAnswer(d, l.scene, l.block),
              max: 200,
            },
          )}
          {l.branch ? (
            <Button size="small" sx={small} onClick={() => act(d => void dropBranch(d, l.scene, l.block, l.choice))}>
              Remove branch
            </Button>
          ) : (
            <Button size="small" sx={small} onClick={() => act(d => addBranch(d, l.scene, l.block, l.choice))}>
              Branch
            </Button>
          )}
          {remove(`Delete the answer ${l.text}`, d => {
            const f = blockOf(d, l.scene, l.block) as Field
            setAnswers(
              d,
              l.scene,
              l.block,
              f.choices!.filter(c => c.id !== l.choice).map(c => c.label),
            )
          })}
        </>
      )
    case 'button':
      return (
        <>
          {mark('▸', plum.main)}
          {input(
            l.button.words,
            'Button',
            (d, v) => {
              const b = blockOf(d, l.scene, l.block)
              if (b.kind === 'button') b.words = v
            },
            { max: 200 },
          )}
          {l.button.press.address !== undefined && (
            <InputBase
              value={l.button.press.address}
              onChange={e =>
                act(d => {
                  const b = blockOf(d, l.scene, l.block)
                  if (b.kind === 'button') b.press.address = e.target.value.trim()
                  return undefined
                }, 'address')
              }
              inputProps={{ 'aria-label': `Link of “${l.button.words}”`, maxLength: 2000 }}
              sx={{
                fontSize: 13,
                color: ink[2],
                width: 210,
                '& input': { p: '5px 6px', borderRadius: '6px' },
                '& input:focus': { background: paper.sheet, boxShadow: `0 0 0 2px ${plum.main}` },
              }}
            />
          )}
          {remove('Delete the button', d => dropLine(d, l.scene, l.block))}
        </>
      )
    case 'other':
      return (
        <>
          {mark('▫')}
          <Box component="span" sx={{ color: ink[2], fontSize: 14 }}>
            {l.name}
          </Box>
        </>
      )
    case 'jump':
      return (
        <>
          {mark('↩', apricot.ink)}
          <Button size="small" sx={{ ...small, fontWeight: 500 }} onClick={() => see(l.to)}>
            continues at “{design.scenes.find(s => s.id === l.to)?.name}”
          </Button>
          {l.scene !== l.to && remove('End here', d => goOn(d, l.scene, ''))}
        </>
      )
    case 'end':
      return (
        <Box role="group" aria-label="Add here" sx={{ display: 'flex', flexWrap: 'wrap', gap: '6px', alignItems: 'center', py: '3px' }}>
          {mark('+')}
          <Button size="small" variant="outlined" sx={small} onClick={() => act(d => addLine(d, l.scene))}>
            Line
          </Button>
          <Button size="small" variant="outlined" sx={small} onClick={() => act(d => addQuestion(d, l.scene))}>
            Question
          </Button>
          <Button size="small" variant="outlined" sx={small} onClick={() => act(d => addFreeQuestion(d, l.scene))}>
            Question with a free answer
          </Button>
          <Button size="small" variant="outlined" sx={small} onClick={() => act(d => addAddress(d, l.scene))}>
            Email
          </Button>
          <Select
            value=""
            displayEmpty
            renderValue={() => 'Link'}
            onChange={e => act(d => addLink(d, l.scene, e.target.value as keyof typeof links))}
            inputProps={{ 'aria-label': 'Add a link' }}
            sx={{ fontSize: 12.5, '& .MuiSelect-select': { py: '2px' } }}
          >
            <MenuItem value="messenger">Messenger</MenuItem>
            <MenuItem value="call">Call</MenuItem>
            <MenuItem value="mail">Mail</MenuItem>
          </Select>
          <Select
            value=""
            displayEmpty
            renderValue={() => 'Continue at…'}
            onChange={e => act(d => void goOn(d, l.scene, e.target.value))}
            inputProps={{ 'aria-label': 'Continue at' }}
            sx={{ fontSize: 12.5, '& .MuiSelect-select': { py: '2px' } }}
          >
            {design.scenes
              .filter(s => s.id !== l.scene)
              .map(s => (
                <MenuItem key={s.id} value={s.id}>
                  {s.name}
                </MenuItem>
              ))}
          </Select>
          <Box component="span" sx={{ fontSize: 12.5, color: ink[2] }}>
            or the conversation ends here
          </Box>
        </Box>
      )
  }
}

/** One more answer to a question; gives its line. */
function addAnswer(d: Design, scene: string, block: string): string {
  const labels = (blockOf(d, scene, block) as Field).choices!.map(c => c.label)
  let n = labels.length + 1
  while (labels.includes(`Answer ${n}`)) n++
  setAnswers(d, scene, block, [...labels, `Answer ${n}`])
  return `${block}-${(blockOf(d, scene, block) as Field).choices!.at(-1)!.id}`
}
