import Add from '@mui/icons-material/Add'
import Close from '@mui/icons-material/Close'
import Box from '@mui/material/Box'
import Checkbox from '@mui/material/Checkbox'
import IconButton from '@mui/material/IconButton'
import OutlinedInput from '@mui/material/OutlinedInput'
import Tooltip from '@mui/material/Tooltip'
import { useRef, useState } from 'react'
import type { Choice, Field } from '../../../../kinds/piece'
import { choicesOf } from '../../../design/blocks'
import { ChoosePicture } from '../../../library/ChoosePicture'
import { TextButton } from '../../../parts/look/TextButton'
import { brick, ink, paper } from '../../../parts/look/theme'
import { useFault } from '../../../piece/draft'
import { changeBlock } from '../../commands/change'
import { useSeen } from '../../commands/view'

/** What a field offers: each with its label, and what it is worth. */
export function Choices({ block, at }: { block: Field; at: string }) {
  const { design } = useSeen()
  const choices = block.choices ?? []
  const set = (how: (c: Choice[]) => void) => changeBlock<Field>(block.id, b => how((b.choices ??= [])))
  const list = useRef<HTMLDivElement>(null)
  const judged = block.ask !== 'order'
  const scored = !!block.reveal || design.scenes.some(s => s.kind === 'result' || s.kind === 'question') || !!design.formulas?.length
  const add = () => {
    set(c => {
      const labels = c.map(x => x.label)
      let n = c.length + 1
      while (labels.includes(`Choice ${n}`)) n++
      c.push(choicesOf([...labels, `Choice ${n}`], c).at(-1)!)
    })
    setTimeout(() => [...list.current!.querySelectorAll<HTMLInputElement>('input[data-label]')].at(-1)?.select())
  }
  return (
    <Box ref={list} sx={{ px: '16px', py: '4px', fontSize: 13 }} role="group" aria-label="Choices">
      <Box sx={{ display: 'flex', color: ink[2], mb: '3px' }}>
        <span style={{ flex: 1 }}>{block.ask === 'order' ? 'Choices, in the correct order' : 'Choices'}</span>
        {scored && judged && <span style={{ width: 56, textAlign: 'center' }}>Correct</span>}
        {scored && <span style={{ width: 62 }}>Score</span>}
        <span style={{ width: 28 }} />
      </Box>
      {choices.map((c, i) => (
        <One
          key={c.id}
          choice={c}
          at={`${at}.choices[${i}]`}
          scored={scored}
          judged={judged}
          pictured={block.look === 'pictures'}
          alone={choices.length === 1}
          set={how => set(all => how(all[i]))}
          onRemove={() => set(all => void all.splice(i, 1))}
          onPaste={lines => set(all => void all.splice(i, 1, ...choicesOf(lines, all).filter(x => !all.some(y => y.id === x.id && y.id !== c.id))))}
        />
      ))}
      <Box sx={{ mt: '6px', display: 'flex', alignItems: 'center', gap: '4px' }}>
        <Add sx={{ fontSize: 16, color: 'primary.main' }} />
        <TextButton onClick={add}>Add a choice</TextButton>
      </Box>
    </Box>
  )
}

function One({
  choice,
  at,
  scored,
  judged,
  pictured,
  alone,
  set,
  onRemove,
  onPaste,
}: {
  choice: Choice
  at: string
  scored: boolean
  judged: boolean
  pictured: boolean
  alone: boolean
  set(how: (c: Choice) => void): void
  onRemove(): void
  onPaste(lines: string[]): void
}) {
  const label = useFault(`${at}.label`)
  const score = useFault(`${at}.score`)
  const picture = useFault(`${at}.picture`)
  const fault = label ?? score ?? picture
  const [choosing, setChoosing] = useState(false)
  return (
    <Box sx={{ mb: '4px' }}>
      <Box sx={{ display: 'flex', alignItems: 'center' }}>
        <OutlinedInput
          size="small"
          value={choice.label}
          onChange={e => set(c => void (c.label = e.target.value))}
          onPaste={e => {
            const lines = e.clipboardData
              .getData('text/plain')
              .split('\n')
              .map(l => l.trim().slice(0, 200))
              .filter(Boolean)
            if (lines.length < 2) return
            e.preventDefault()
            onPaste([...new Set(lines)].slice(0, 60))
          }}
          sx={{ flex: 1, background: paper.sheet }}
          inputProps={{ maxLength: 200, 'aria-label': 'Label', 'data-label': '' }}
        />
        {scored && judged && (
          <Checkbox
            size="small"
            checked={!!choice.right}
            onChange={e => set(c => (e.target.checked ? void (c.right = true) : void delete c.right))}
            slotProps={{ input: { 'aria-label': `${choice.label} is correct` } }}
            sx={{ width: 56, p: 0 }}
          />
        )}
        {scored && (
          <OutlinedInput
            size="small"
            type="number"
            value={choice.score ?? 0}
            onChange={e => set(c => (Number(e.target.value) ? void (c.score = Number(e.target.value)) : void delete c.score))}
            sx={{ width: 58, ml: '4px', background: paper.sheet }}
            inputProps={{ 'aria-label': `Score of ${choice.label}`, step: 'any' }}
          />
        )}
        <Tooltip title="Remove">
          <span>
            <IconButton size="small" aria-label={`Remove ${choice.label}`} onClick={onRemove} disabled={alone}>
              <Close sx={{ fontSize: 16 }} />
            </IconButton>
          </span>
        </Tooltip>
      </Box>
      {pictured && (
        <>
          <Box sx={{ display: 'flex', alignItems: 'center', gap: '8px', mt: '3px' }}>
            {choice.picture && (
              <Box component="img" src={`/v1/pictures/${choice.picture}`} alt="" sx={{ width: 40, height: 28, objectFit: 'cover', borderRadius: '4px' }} />
            )}
            <TextButton onClick={() => setChoosing(!choosing)}>{choosing ? 'Close' : choice.picture ? 'Change picture' : 'Choose a picture'}</TextButton>
          </Box>
          {choosing && (
            <ChoosePicture
              value={choice.picture ?? ''}
              onChoose={p => {
                set(c => void (c.picture = p.hash))
                setChoosing(false)
              }}
              fault={picture}
            />
          )}
        </>
      )}
      {fault && (
        <Box role="alert" sx={{ color: brick.main, fontWeight: 600, mt: '2px' }}>
          {fault}
        </Box>
      )}
    </Box>
  )
}
