import Box from '@mui/material/Box'
import MenuItem from '@mui/material/MenuItem'
import Select from '@mui/material/Select'
import { useState } from 'react'
import type { Code, LinkItem, Links, Timer } from '../../../../kinds/piece'
import { drawsOf, polled } from '../../../design/blocks'
import { icons } from '../../../design/icons'
import { AddCodes } from '../../../library/AddCodes'
import { DateTimeField } from '../../../parts/forms/DateTimeField'
import { NumberField } from '../../../parts/forms/fields'
import { TextButton } from '../../../parts/look/TextButton'
import { momentHere, nowHere } from '../../../parts/words/time'
import { usePools } from '../../../server/queries'
import { changeBlock } from '../../commands/change'
import { useSeen } from '../../commands/view'
import { Choice, Pick, Row, Typed } from '../controls/controls'

// Settings that are more than a value: those of blocks that few pieces have.

/** When a timer ends. */
export function TimerEnd({ block }: { block: Timer }) {
  const set = (how: (b: Timer) => void) => changeBlock(block.id, how)
  return (
    <>
      <Choice
        label="Ends at"
        value={block.to !== undefined ? 'date' : 'visitor'}
        options={[
          ['visitor', 'A time after first view'],
          ['date', 'A date'],
        ]}
        onChange={to =>
          set(b => {
            if (to === 'date') {
              b.to = new Date(Date.now() + 7 * 86_400_000).toISOString().slice(0, 19) + 'Z'
              delete b.minutes
            } else {
              delete b.to
              b.minutes = 15
            }
          })
        }
        k="to"
      />
      {block.to !== undefined ? (
        <Row label="Until" k="to" wide>
          {() => (
            <DateTimeField
              bare
              label="Until"
              value={nowHere(new Date(block.to!))}
              onChange={wall => set(b => void (b.to = momentHere(wall).toISOString().slice(0, 19) + 'Z'))}
            />
          )}
        </Row>
      ) : (
        <Row label="From first view" k="minutes">
          {() => <Span minutes={block.minutes ?? 15} onChange={minutes => set(b => void (b.minutes = minutes))} />}
        </Row>
      )}
    </>
  )
}

const mostMinutes = 525_600

/** A span of time in days, hours and minutes. */
function Span({ minutes, onChange }: { minutes: number; onChange(minutes: number): void }) {
  const parts = [
    ['Days', 'd', 1440, Math.floor(minutes / 1440), 365],
    ['Hours', 'h', 60, Math.floor((minutes % 1440) / 60), 23],
    ['Minutes', 'min', 1, minutes % 60, 59],
  ] as const
  return (
    <Box sx={{ display: 'flex', gap: '6px' }}>
      {parts.map(([name, unit, length, n, most]) => (
        <NumberField
          key={name}
          label={name}
          unit={unit}
          value={n}
          min={0}
          max={most}
          onChange={next => onChange(Math.max(1, Math.min(mostMinutes, minutes + (next - n) * length)))}
        />
      ))}
    </Box>
  )
}

/** Where a code comes from. */
export function CodeSource({ block }: { block: Code }) {
  const pools = usePools().data ?? []
  const { design } = useSeen()
  const [making, setMaking] = useState(false)
  const take = (pool: string) =>
    changeBlock<Code>(block.id, b => {
      delete b.code
      delete b.draw
      b.pool = pool
    })
  return (
    <>
      {making && (
        <AddCodes
          to={null}
          pools={pools}
          onDone={pool => {
            setMaking(false)
            if (pool) take(pool)
          }}
        />
      )}
      <Choice
        label="Code type"
        value={block.draw ? 'draw ' + block.draw : block.pool ? 'pool ' + block.pool : ''}
        options={[
          ['', 'The same for everyone'] as const,
          ...drawsOf(design).map(d => ['draw ' + d.key, `From the prize: ${d.label}`] as const),
          ...pools.map(p => ['pool ' + p.id, `From the pool ${p.name}, ${p.left} left`] as const),
          ['new', 'From a new pool, one code for each visitor…'] as const,
        ]}
        onChange={from =>
          from === 'new'
            ? setMaking(true)
            : changeBlock<Code>(block.id, b => {
                const [kind, name] = from.split(/ (.*)/s)
                delete b.pool
                delete b.code
                delete b.draw
                if (kind === 'pool') b.pool = name
                else if (kind === 'draw') b.draw = name
                else b.code = 'WELCOME10'
              })
        }
        k="pool"
      />
    </>
  )
}

/** The links of a row of icons. */
export function LinkItems({ block, at }: { block: Links; at: string }) {
  const set = (how: (items: LinkItem[]) => void) => changeBlock<Links>(block.id, b => how(b.items))
  return (
    <>
      {block.items.map((item, i) => (
        <Box key={i} sx={{ borderBottom: '1px dashed #e0d6c6', pb: '4px' }}>
          <Row label="Icon">
            {() => (
              <Select
                fullWidth
                value={item.name}
                inputProps={{ 'aria-label': `Icon of link ${i + 1}` }}
                onChange={e =>
                  set(items => {
                    items[i].name = e.target.value
                    items[i].path = icons[e.target.value]
                  })
                }
              >
                {Object.keys(icons).map(n => (
                  <MenuItem key={n} value={n}>
                    {n}
                  </MenuItem>
                ))}
              </Select>
            )}
          </Row>
          <Row label="Name" at={`${at}.items[${i}].label`}>
            {id => <Typed id={id} value={item.label} max={200} onChange={w => set(items => void (items[i].label = w))} />}
          </Row>
          <Row label="Link" at={`${at}.items[${i}].address`}>
            {id => <Typed id={id} value={item.address} max={2000} onChange={w => set(items => void (items[i].address = w.trim()))} />}
          </Row>
          {block.items.length > 1 && (
            <Row label="">{() => <TextButton onClick={() => set(items => void items.splice(i, 1))}>Remove this link</TextButton>}</Row>
          )}
        </Box>
      ))}
      {block.items.length < 12 && (
        <Row label="">
          {() => (
            <TextButton onClick={() => set(items => void items.push({ name: 'globe', path: icons.globe, label: 'A link', address: 'https://example.com' }))}>
              Add a link
            </TextButton>
          )}
        </Row>
      )}
    </>
  )
}

/** Whose answers are counted. */
export function TallyQuestion() {
  const { design } = useSeen()
  return <Pick k="key" label="Question" options={[['', 'Choose one'] as const, ...polled(design).map(f => [f.key, f.label] as const)]} />
}
