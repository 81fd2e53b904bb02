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
import { Choice, Colour, Flag, Line, Num, Pick, Row, sides, Typed } from '../controls/controls'
import { Ways } from '../controls/Ways'

// The settings of blocks that few pieces have.

export function TimerSettings({ block }: { block: Timer }) {
  const { design } = useSeen()
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
      <Pick
        k="at_zero"
        label="When it ends"
        options={[
          ['stay', 'Stay at zero'],
          ['hide', 'Hide'],
          ['words', 'Show a text'],
          ['close', 'Close the piece'],
          ['next', 'Go to a scene'],
        ]}
      />
      {block.at_zero === 'words' && <Line k="words" label="Text" max={200} optional />}
      {block.at_zero === 'next' && <Ways block={block.id} label="Next scene" />}
      <Flag k="boxed" label="Boxed digits" />
      <Num k="size" label="Size" unit="px" min={12} max={72} />
      <Pick k="align" label="Align" options={sides} />
      <Colour k="color" label="Colour" usual={design.frame.ink} />
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

export function CodeSettings({ block }: { block: Code }) {
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
      {!block.pool && !block.draw && <Line k="code" label="Code" max={100} />}
      <Line k="words" label="Button" max={200} />
      <Line k="copied" label="Text when copied" max={200} />
      <Line k="apply" label="Link to apply it" max={2000} optional hint="https://…?code={code}" tidy={w => w.trim()} />
      {block.apply && <Line k="apply_words" label="Link text" max={200} optional hint="Use it now" />}
      <Num k="size" label="Size" unit="px" min={12} max={48} />
      <Colour k="background" label="Background" usual={design.frame.background} />
      <Colour k="color" label="Colour" usual={design.frame.ink} />
    </>
  )
}

export function LinksSettings({ block, at }: { block: Links; at: string }) {
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
      <Flag k="named" label="Show names" />
      <Num k="size" label="Size" unit="px" min={16} max={64} />
      <Pick k="align" label="Align" options={sides} />
      <Colour k="color" label="Colour" usual="@ink" />
    </>
  )
}

/** What a formula comes to, and how it is shown. */
export function ValueSettings() {
  const { design } = useSeen()
  return (
    <>
      <Pick k="formula" label="Formula" options={[['', 'Choose one'] as const, ...(design.formulas ?? []).map(f => [f.name, f.name] as const)]} />
      <Line k="label" label="Label" max={200} optional />
      <Num k="size" label="Size" unit="px" min={12} max={120} />
      <Pick k="align" label="Align" options={sides} />
      <Colour k="color" label="Colour" usual="@ink" />
    </>
  )
}

/** How everyone answered, and from when on it is shown. */
export function TallySettings() {
  const { design } = useSeen()
  return (
    <>
      <Pick k="key" label="Question" options={[['', 'Choose one'] as const, ...polled(design).map(f => [f.key, f.label] as const)]} />
      <Flag k="counts" label="Show counts" />
      <Num k="least" label="Votes needed" min={0} max={100_000} usual={0} />
      <Colour k="color" label="Bars" usual="@accent" />
    </>
  )
}
