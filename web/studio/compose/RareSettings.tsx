import Box from '@mui/material/Box'
import MenuItem from '@mui/material/MenuItem'
import OutlinedInput from '@mui/material/OutlinedInput'
import Select from '@mui/material/Select'
import type { Code, LinkItem, Links, Timer } from '../../kinds/piece'
import { usePools } from '../queries'
import { drawsOf, polled } from './blocks'
import { Choice, Colour, Flag, Line, Link, Muted, Num, Pick, Row, sides, Typed } from './controls'
import { icons } from './icons'
import { changeBlock, useSeen } from './view'
import { Ways } from './Ways'

// The settings of blocks that few pieces hold.

export function TimerSettings({ block }: { block: Timer }) {
  const { design } = useSeen()
  const set = (how: (b: Timer) => void) => changeBlock(block.id, how)
  const local = block.to ? toLocal(block.to) : ''
  return (
    <>
      <Choice
        label="Counts to"
        value={block.to !== undefined ? 'date' : 'visitor'}
        options={[
          ['visitor', 'each visitor’s own end'],
          ['date', 'a date'],
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
        <Row label="Until" k="to">
          {id => (
            <OutlinedInput
              id={id}
              size="small"
              fullWidth
              type="datetime-local"
              value={local}
              onChange={e => {
                const at = new Date(e.target.value)
                if (!Number.isNaN(at.getTime())) set(b => void (b.to = at.toISOString().slice(0, 19) + 'Z'))
              }}
            />
          )}
        </Row>
      ) : (
        <Num k="minutes" label="From first sight" unit="min" min={1} max={525_600} />
      )}
      <Pick
        k="at_zero"
        label="At zero, it"
        options={[
          ['stay', 'stays at zero'],
          ['hide', 'is hidden'],
          ['words', 'turns into words'],
          ['close', 'closes the piece'],
          ['next', 'goes to a scene'],
        ]}
      />
      {block.at_zero === 'words' && <Line k="words" label="The words" max={200} optional />}
      {block.at_zero === 'next' && <Ways block={block.id} label="Goes to" />}
      <Flag k="boxed" label="In boxes" />
      <Num k="size" label="Size" unit="px" min={12} max={72} />
      <Pick k="align" label="Stands" options={sides} />
      <Colour k="color" label="Colour" usual={design.frame.ink} />
    </>
  )
}

/** A moment as an input of the browser's own time takes it. */
function toLocal(iso: string): string {
  const d = new Date(iso)
  if (Number.isNaN(d.getTime())) return ''
  return new Date(d.getTime() - d.getTimezoneOffset() * 60_000).toISOString().slice(0, 16)
}

export function CodeSettings({ block }: { block: Code }) {
  const pools = usePools().data ?? []
  const { design } = useSeen()
  return (
    <>
      <Choice
        label="The code"
        value={block.draw ? 'draw ' + block.draw : block.pool ? 'pool ' + block.pool : ''}
        options={[
          ['', 'is the same for everyone'] as const,
          ...drawsOf(design).map(d => ['draw ' + d.key, `of what was drawn: ${d.label}`] as const),
          ...pools.map(p => ['pool ' + p.id, `one of ${p.name}, ${p.left} left`] as const),
        ]}
        onChange={from =>
          changeBlock<Code>(block.id, b => {
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
      {pools.length === 0 && <Row label="">{() => <Muted>Pools of codes, one for each visitor, are made under Site.</Muted>}</Row>}
      <Line k="words" label="Button" max={200} />
      <Line k="copied" label="Once pressed" max={200} />
      <Line k="apply" label="Link that uses it" max={2000} optional hint="https://…?code={code}" tidy={w => w.trim()} />
      {block.apply && <Line k="apply_words" label="Its words" max={200} optional hint="Use it now" />}
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
          <Row label="Mark">
            {() => (
              <Select
                fullWidth
                value={item.name}
                inputProps={{ 'aria-label': `Mark of link ${i + 1}` }}
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
          <Row label="Called" at={`${at}.items[${i}].label`}>
            {id => <Typed id={id} value={item.label} max={200} onChange={w => set(items => void (items[i].label = w))} />}
          </Row>
          <Row label="Address" at={`${at}.items[${i}].address`}>
            {id => <Typed id={id} value={item.address} max={2000} onChange={w => set(items => void (items[i].address = w.trim()))} />}
          </Row>
          {block.items.length > 1 && <Row label="">{() => <Link onClick={() => set(items => void items.splice(i, 1))}>Take this link out</Link>}</Row>}
        </Box>
      ))}
      {block.items.length < 12 && (
        <Row label="">
          {() => (
            <Link onClick={() => set(items => void items.push({ name: 'globe', path: icons.globe, label: 'Another link', address: 'https://example.com' }))}>
              Another link
            </Link>
          )}
        </Row>
      )}
      <Flag k="named" label="Names shown" />
      <Num k="size" label="Size" unit="px" min={16} max={64} />
      <Pick k="align" label="Stands" options={sides} />
      <Colour k="color" label="Colour" usual="@ink" />
    </>
  )
}

/** What a formula comes to, and how it is shown. */
export function ValueSettings() {
  const { design } = useSeen()
  return (
    <>
      <Pick k="formula" label="Formula" options={[['', 'choose one'] as const, ...(design.formulas ?? []).map(f => [f.name, f.name] as const)]} />
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
      <Pick k="key" label="Question" options={[['', 'choose one'] as const, ...polled(design).map(f => [f.key, f.label] as const)]} />
      <Flag k="counts" label="Counts" />
      <Num k="least" label="Votes needed" min={0} max={100_000} usual={0} />
      <Colour k="color" label="Bars" usual="@accent" />
    </>
  )
}
