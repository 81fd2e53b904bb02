import Add from '@mui/icons-material/Add'
import Close from '@mui/icons-material/Close'
import Box from '@mui/material/Box'
import IconButton from '@mui/material/IconButton'
import MenuItem from '@mui/material/MenuItem'
import OutlinedInput from '@mui/material/OutlinedInput'
import Select from '@mui/material/Select'
import Tooltip from '@mui/material/Tooltip'
import { useRef, useState } from 'react'
import type { DrawPart, PrizeDraw } from '../../../../kinds/piece'
import type { PoolInfo } from '../../../../kinds/studio'
import { fills } from '../../../../page/draw'
import { paint } from '../../../../page/paint'
import { choicesOf } from '../../../design/blocks'
import { AddCodes } from '../../../library/AddCodes'
import { ColourField } from '../../../parts/forms/ColourField'
import { TextButton } from '../../../parts/look/TextButton'
import { brick, ink, paper } from '../../../parts/look/theme'
import { percent } from '../../../parts/words/say'
import { useFault } from '../../../piece/draft'
import { usePools, useSite } from '../../../server/queries'
import { changeBlock } from '../../commands/change'
import { useSeen } from '../../commands/view'
import { Colour, Flag, Line, More, Muted, Num, Pick, Row } from '../controls/controls'
import { Ways } from '../controls/Ways'

const mostParts = 24

/** What can be won, how likely that is, and how it looks. */
export function DrawSettings({ block: d, at }: { block: PrizeDraw; at: string }) {
  const { design, scene } = useSeen()
  const { kit } = useSite()
  const pools = usePools().data ?? []
  const list = useRef<HTMLDivElement>(null)
  const fault = useFault(`${at}.parts`)
  const set = (how: (parts: DrawPart[]) => void) => changeBlock<PrizeDraw>(d.id, b => how(b.parts))
  const sum = d.parts.reduce((n, p) => n + p.weight, 0)
  const wins = d.parts.reduce((n, p) => n + (p.nothing ? 0 : p.weight), 0)
  const filled = fills(d.parts, design.frame, c => paint(kit, c))
  const sends = scene.blocks.some(b => b.kind === 'button' && b.press.do === 'send')
  const add = () => {
    set(parts => {
      const labels = parts.map(p => p.label)
      let n = parts.length + 1
      while (labels.includes(`Prize ${n}`)) n++
      parts.push({ ...choicesOf([...labels, `Prize ${n}`], parts).at(-1)!, weight: 1 } as DrawPart)
    })
    setTimeout(() => [...list.current!.querySelectorAll<HTMLInputElement>('input[data-label]')].at(-1)?.select())
  }
  return (
    <>
      <Pick
        k="look"
        label="Style"
        options={[
          ['wheel', 'Wheel'],
          ['card', 'Scratch card'],
          ['boxes', 'Boxes to pick from'],
        ]}
      />
      <Box ref={list} role="group" aria-label="Parts" sx={{ px: '16px', py: '4px', fontSize: 13 }}>
        <Box sx={{ display: 'flex', color: ink[2], mb: '3px', gap: '4px' }}>
          <span style={{ flex: 1 }}>Parts</span>
          <Tooltip title="How likely it is, in proportion to the others">
            <span style={{ width: 58 }}>Weight</span>
          </Tooltip>
          <span style={{ width: 50, textAlign: 'end' }}>Odds</span>
          <span style={{ width: 26 }} />
        </Box>
        {d.parts.map((p, i) => (
          <Part
            key={p.id}
            part={p}
            at={`${at}.parts[${i}]`}
            odds={sum ? p.weight / sum : 0}
            fill={filled[i]}
            pools={pools}
            alone={d.parts.length <= 2}
            set={how => set(parts => how(parts[i]))}
            onRemove={() => set(parts => void parts.splice(i, 1))}
          />
        ))}
        {fault && (
          <Box role="alert" sx={{ color: brick.main, fontWeight: 600 }}>
            {fault}
          </Box>
        )}
        <Box sx={{ mt: '6px', display: 'flex', alignItems: 'center', gap: '4px' }}>
          {d.parts.length < mostParts && (
            <>
              <Add sx={{ fontSize: 16, color: 'primary.main' }} />
              <TextButton onClick={add}>Add a part</TextButton>
            </>
          )}
          <Box component="span" sx={{ ml: 'auto', color: ink[2] }}>
            {sum ? `${percent(wins / sum)} of goes win` : 'Nothing can be drawn'}
          </Box>
        </Box>
      </Box>
      <Flag k="odds" label="Show the odds" />
      {d.look === 'wheel' && <Flag k="even" label="Equal widths" />}
      {d.look === 'wheel' && (
        <Row label="">{() => <Muted>{d.even ? 'All parts look alike, whatever their odds.' : 'Each part is as wide as its odds.'}</Muted>}</Row>
      )}
      {d.look === 'boxes' && <Num k="boxes" label="Boxes" min={2} max={9} usual={3} />}
      <Line k="words" label={d.look === 'wheel' ? 'Hub' : d.look === 'card' ? 'On the card' : 'Screen-reader label'} max={40} />
      {!sends && <Flag k="counts" label="Counts as conversion" />}
      {!sends && <Ways block={d.id} label="Next scene" />}
      <Num k="size" label="Size" unit="px" min={160} max={480} />
      <Colour k="color" label={d.look === 'wheel' ? 'Rim' : 'Colour'} usual={d.look === 'wheel' ? design.frame.ink : design.frame.accent} />
      <More name="Name">
        <Line k="label" label="Name" max={200} />
        <Line k="key" label="Field name" max={40} tidy={w => w.toLowerCase().replace(/[^a-z0-9_]/g, '_')} />
      </More>
    </>
  )
}

function Part({
  part: p,
  at,
  odds,
  fill,
  pools,
  alone,
  set,
  onRemove,
}: {
  part: DrawPart
  at: string
  odds: number
  fill: string
  pools: PoolInfo[]
  alone: boolean
  set(how: (p: DrawPart) => void): void
  onRemove(): void
}) {
  const { kit } = useSite()
  const { design } = useSeen()
  const faults = [useFault(`${at}.label`), useFault(`${at}.weight`), useFault(`${at}.stock`), useFault(`${at}.code`), useFault(`${at}.pool`)]
  const fault = faults.find(Boolean)
  const prize = p.nothing ? 'nothing' : p.pool ? 'pool ' + p.pool : p.code !== undefined ? 'code' : ''
  const pool = pools.find(x => x.id === p.pool)
  const [making, setMaking] = useState(false)
  const takePrize = (prize: string) =>
    set(x => {
      const [kind, id] = prize.split(/ (.*)/s)
      delete x.nothing
      delete x.code
      delete x.pool
      if (kind === 'nothing') x.nothing = true
      if (kind === 'code') x.code = 'WINNER'
      if (kind === 'pool') x.pool = id
    })
  const small = { background: paper.sheet, fontSize: 13, minWidth: 0 }
  return (
    <Box sx={{ mb: '8px', pb: '6px', borderBottom: `1px dashed ${paper.line}` }}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: '4px' }}>
        <OutlinedInput
          size="small"
          value={p.label}
          onChange={e => set(x => void (x.label = e.target.value))}
          sx={{ ...small, flex: 1 }}
          inputProps={{ maxLength: 60, 'aria-label': 'Label', 'data-label': true }}
        />
        <OutlinedInput
          size="small"
          type="number"
          value={p.weight}
          onChange={e => set(x => void (x.weight = Math.max(0, Number(e.target.value) || 0)))}
          sx={{ ...small, width: 58, '& input': { px: '7px' } }}
          inputProps={{ min: 0, max: 1_000_000, step: 'any', 'aria-label': `Weight of ${p.label}` }}
        />
        <Box component="output" sx={{ width: 50, textAlign: 'end', fontVariantNumeric: 'tabular-nums' }} aria-label={`Odds of ${p.label}`}>
          {percent(odds)}
        </Box>
        <Tooltip title="Remove">
          <span>
            <IconButton size="small" aria-label={`Remove ${p.label}`} onClick={onRemove} disabled={alone} sx={{ p: '4px' }}>
              <Close sx={{ fontSize: 16 }} />
            </IconButton>
          </span>
        </Tooltip>
      </Box>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: '4px', mt: '4px' }}>
        <Select
          value={prize}
          displayEmpty
          onChange={e => (e.target.value === 'new' ? setMaking(true) : takePrize(e.target.value))}
          sx={{ ...small, flex: 1 }}
          inputProps={{ 'aria-label': `Prize of ${p.label}` }}
        >
          <MenuItem value="nothing">No prize</MenuItem>
          <MenuItem value="">Prize without a code</MenuItem>
          <MenuItem value="code">The same code for everyone</MenuItem>
          {pools.map(x => (
            <MenuItem key={x.id} value={'pool ' + x.id}>
              Code from {x.name}
            </MenuItem>
          ))}
          <MenuItem value="new">Code from a new pool…</MenuItem>
          {p.pool && !pool && <MenuItem value={prize}>A code from a deleted pool</MenuItem>}
        </Select>
        <OutlinedInput
          size="small"
          value={p.stock ?? ''}
          placeholder="Stock"
          onChange={e =>
            set(x => {
              const n = Math.floor(Number(e.target.value))
              if (e.target.value.trim() === '' || Number.isNaN(n)) delete x.stock
              else x.stock = Math.max(0, n)
            })
          }
          sx={{ ...small, width: 58, '& input': { px: '7px' } }}
          inputProps={{ inputMode: 'numeric', 'aria-label': `Stock of ${p.label}`, title: 'How many can be won in total; empty: unlimited' }}
        />
        <ColourField
          label={`Colour of ${p.label}`}
          value={p.fill ?? fill}
          kit={kit}
          near={[design.frame.background]}
          onChange={c => set(x => void (x.fill = c))}
          bare
        />
      </Box>
      {prize === 'code' && (
        <OutlinedInput
          size="small"
          fullWidth
          value={p.code}
          onChange={e => set(x => void (x.code = e.target.value))}
          sx={{ ...small, mt: '4px' }}
          inputProps={{ maxLength: 300, 'aria-label': `Code of ${p.label}` }}
        />
      )}
      {making && (
        <AddCodes
          to={null}
          pools={pools}
          onDone={made => {
            setMaking(false)
            if (made) takePrize(`pool ${made}`)
          }}
        />
      )}
      {pool && (
        <Box sx={{ color: pool.left < 20 ? brick.main : ink[2], mt: '2px' }}>
          {pool.left === 0 ? 'No codes left' : pool.left === 1 ? '1 code left' : `${pool.left} codes left`}
        </Box>
      )}
      {fault && (
        <Box role="alert" sx={{ color: brick.main, fontWeight: 600, mt: '2px' }}>
          {fault}
        </Box>
      )}
    </Box>
  )
}
