import Box from '@mui/material/Box'
import MenuItem from '@mui/material/MenuItem'
import OutlinedInput from '@mui/material/OutlinedInput'
import Select from '@mui/material/Select'
import { useMemo } from 'react'
import type { Block, Button, Code, Columns, Deed, Field, Heading, Icon, LinkItem, Links, List, Picture, Text, Timer, Video, Words } from '../../kinds/piece'
import { paint } from '../../page/paint'
import { useFault } from '../bench/draft'
import { useBoard, usePools, useSite } from '../queries'
import { plum } from '../theme'
import { asks, keyFor } from './blocks'
import { ChooseFile } from './ChooseFile'
import { ChoosePicture } from './ChoosePicture'
import { Choice, Colour, Flag, KitNum, Line, Link, More, Num, Pick, Reads, Row, Rule, Toggle, Typed } from './controls'
import { Focus, Muted } from './FrameSettings'
import { icons } from './icons'
import { flat, plain } from './tree'
import { ratioOf } from './uploads'
import { changeBlock, changeWhole, duplicateSelected, removeSelected, useScene } from './view'
import { joined, lines as linesOf } from './words'

const sides = [
  ['start', 'at the start'],
  ['center', 'in the middle'],
  ['end', 'at the end'],
] as const

/** A block's settings, few first. */
export function BlockSettings({ block, whole, at }: { block: Block; whole: Block; at: string }) {
  const { phone } = useScene()
  const content = contentKey(whole)
  return (
    <>
      <Own block={block} at={at} />
      <More name="Space and devices">
        <Num k="above" label="Space above" unit="px" min={-48} max={160} usual={0} />
        <Choice
          label="Shown"
          value={whole.hide ?? ''}
          options={[
            ['', 'everywhere'],
            ['phone', 'everywhere but on phones'],
            ['desktop', 'on phones only'],
          ]}
          onChange={h =>
            changeWhole(block.id, b => {
              if (h) b.hide = h as 'phone'
              else delete b.hide
            })
          }
          k="hide"
        />
        {phone && content && !(content in (whole.phone ?? {})) && (
          <Row label="">
            {() => (
              <Link
                onClick={() =>
                  changeWhole(block.id, b => {
                    b.phone = { ...b.phone, [content]: (whole as never)[content] }
                  })
                }
              >
                {content === 'picture' ? 'Another picture on phones' : 'Other words on phones'}
              </Link>
            )}
          </Row>
        )}
        <Toggle
          label="Locked"
          on={!!whole.locked}
          onChange={on =>
            changeWhole(block.id, b => {
              if (on) b.locked = true
              else delete b.locked
            })
          }
        />
      </More>
      <Rule />
      <Box sx={{ display: 'flex', gap: 2, px: '16px', pt: '2px', fontSize: 13 }}>
        <Link onClick={duplicateSelected}>Duplicate</Link>
        {!whole.locked && <Link onClick={removeSelected}>Take out</Link>}
      </Box>
    </>
  )
}

const contentKey = (b: Block) => ({ heading: 'text', text: 'text', button: 'words', picture: 'picture', field: 'label' })[b.kind as string] ?? ''

function Own({ block, at }: { block: Block; at: string }) {
  switch (block.kind) {
    case 'heading':
    case 'text':
      return <WordsSettings block={block} at={at} />
    case 'list':
      return <ListSettings block={block} at={at} />
    case 'picture':
      return <PictureSettings block={block} at={at} />
    case 'video':
      return <VideoSettings block={block} at={at} />
    case 'icon':
      return <IconSettings block={block} />
    case 'field':
      return <FieldSettings block={block} />
    case 'button':
      return <ButtonSettings block={block} at={at} />
    case 'timer':
      return <TimerSettings block={block} />
    case 'code':
      return <CodeSettings block={block} />
    case 'columns':
      return <ColumnsSettings block={block} />
    case 'links':
      return <LinksSettings block={block} at={at} />
    case 'divider':
      return (
        <>
          <Num k="thick" label="Thickness" unit="px" min={1} max={12} />
          <Num k="width" label="Width" unit="%" min={5} max={100} />
          <Colour k="color" label="Colour" usual="@ink" />
        </>
      )
    case 'space':
      return <Num k="height" label="Height" unit="px" min={1} max={400} />
    case 'box':
      return (
        <>
          <Colour k="background" label="Background" usual="@soft" />
          <Row label="">
            {() => <Link onClick={() => changeBlock(block.id, b => void delete (b as { background?: string }).background)}>No background</Link>}
          </Row>
          <Num k="padding" label="Padding" unit="px" min={0} max={64} />
          <Num k="corners" label="Corners" unit="px" min={0} max={64} />
          <Num k="gap" label="Between" unit="px" min={0} max={48} />
          <Num k="border.width" label="Border" unit="px" min={0} max={12} usual={0} />
          {block.border?.width ? <Colour k="border.color" label="Its colour" usual="@ink" /> : null}
        </>
      )
    case 'progress':
      return (
        <>
          <Pick
            k="look"
            label="Drawn as"
            options={[
              ['bar', 'a bar'],
              ['dots', 'dots'],
              ['words', 'words'],
            ]}
          />
          <Num k="value" label="Stands at" unit="%" min={0} max={100} usual={0} />
          <Row label="">{() => <Muted>At 0 it shows which scene this is, of how many.</Muted>}</Row>
          <Colour k="color" label="Colour" usual="@accent" />
        </>
      )
    case 'html':
      return (
        <>
          <Line k="html" label="Markup" max={40_000} lines={8} />
          <Row label="">{() => <Muted>Scripts, frames and forms are taken out when it is saved.</Muted>}</Row>
        </>
      )
  }
}

/** Words as plain lines to be typed; looks they have are kept where the text stays. */
function WordsField({ id, value, onChange }: { id?: string; value: Words; onChange(w: Words): void }) {
  const rich = typeof value !== 'string'
  return (
    <>
      <Typed id={id} value={plain(value)} lines={2} max={10_000} onChange={onChange} />
      {rich && <Muted>Parts of it have looks of their own. Change them in place to keep these.</Muted>}
    </>
  )
}

function WordsSettings({ block, at }: { block: Heading | Text; at: string }) {
  const { design } = useScene()
  const { kit } = useSite()
  const set = (how: (b: Heading | Text) => void) => changeBlock(block.id, how)
  const [least, most] = block.kind === 'heading' ? [12, 120] : [10, 40]
  return (
    <>
      <Row label="Words" at={`${at}.text`} k="text">
        {id => <WordsField id={id} value={block.text} onChange={w => set(b => void (b.text = w))} />}
      </Row>
      <Row label="">
        {() => (
          <Muted>
            Greet by name with{' '}
            <Link
              onClick={() =>
                set(b => void (b.text = typeof b.text === 'string' ? b.text + ' {first name|friend}' : [...b.text, { text: ' {first name|friend}' }]))
              }
            >
              {'{first name|friend}'}
            </Link>
          </Muted>
        )}
      </Row>
      <Num k="size" label="Size" unit="px" min={least} max={most} />
      <Pick k="align" label="Stands" options={sides} />
      <Colour k="color" label="Colour" usual={design.frame.ink} />
      {!design.frame.behind?.gradient && (
        <Reads
          ink={paint(kit, block.color || design.frame.ink)}
          behind={paint(kit, design.frame.background)}
          large={block.kind === 'heading' && block.size >= 24}
        />
      )}
    </>
  )
}

function ListSettings({ block, at }: { block: List; at: string }) {
  const { design } = useScene()
  return (
    <>
      <Row label="A line each" at={`${at}.items`} wide>
        {id => (
          <Typed
            id={id}
            value={plain(joined(block.items))}
            lines={3}
            max={10_000}
            onChange={w => changeBlock<List>(block.id, b => void (b.items = linesOf(w)))}
          />
        )}
      </Row>
      <Pick
        k="marker"
        label="Marks"
        options={[
          ['tick', 'ticks'],
          ['dot', 'dots'],
          ['dash', 'dashes'],
          ['number', 'numbers'],
        ]}
      />
      <Num k="size" label="Size" unit="px" min={10} max={40} />
      <Colour k="color" label="Words" usual={design.frame.ink} />
      <Colour k="mark" label="Marks" usual={design.frame.accent} />
    </>
  )
}

function PictureSettings({ block, at }: { block: Picture; at: string }) {
  return (
    <>
      <ChoosePicture
        value={block.picture}
        fault={useFault(`${at}.picture`)}
        onChoose={p =>
          changeBlock<Picture>(block.id, b => {
            b.picture = p.hash
            b.ratio = ratioOf(p)
          })
        }
      />
      <Line k="alt" label="Says, to those who cannot see it" max={500} lines={2} />
      <Num k="width" label="Width" unit="%" min={10} max={100} />
      <Num k="ratio" label="Height" unit="% of width" min={10} max={400} />
      <Num k="corners" label="Corners" unit="px" min={0} max={400} />
      <Pick k="align" label="Stands" options={sides} />
      <Focus hash={block.picture} />
      <Line k="link" label="Opens" max={2000} optional hint="an address, or nothing" tidy={w => w.trim()} />
    </>
  )
}

function VideoSettings({ block, at }: { block: Video; at: string }) {
  return (
    <>
      <ChooseFile
        value={block.file ?? ''}
        video
        fault={useFault(`${at}.file`)}
        onChoose={f =>
          changeBlock<Video>(block.id, b => {
            b.file = f.hash
            delete b.address
          })
        }
      />
      {block.file ? (
        <Row label="">{() => <Link onClick={() => changeBlock<Video>(block.id, b => void delete b.file)}>Embed a player instead</Link>}</Row>
      ) : (
        <Line k="address" label="Or a player’s address" max={2000} optional hint="https://…" tidy={w => w.trim()} />
      )}
      <Line k="title" label="Says, to those who cannot see it" max={500} />
      <Num k="ratio" label="Height" unit="% of width" min={10} max={400} />
      <Num k="corners" label="Corners" unit="px" min={0} max={64} />
      {block.file && <Flag k="plays" label="Plays by itself, without sound" />}
    </>
  )
}

function IconGrid({ value, onChange }: { value: string; onChange(name: string): void }) {
  return (
    <Box role="radiogroup" aria-label="Icon" sx={{ display: 'grid', gridTemplateColumns: 'repeat(7, 1fr)', gap: '3px', px: '16px', py: '4px' }}>
      {Object.entries(icons).map(([name, path]) => (
        <Box
          key={name}
          component="button"
          type="button"
          role="radio"
          aria-checked={name === value}
          aria-label={name}
          title={name}
          onClick={() => onChange(name)}
          sx={{
            border: 0,
            p: '4px',
            borderRadius: '5px',
            background: name === value ? plum.wash : 'none',
            color: name === value ? plum.main : 'inherit',
            cursor: 'pointer',
            lineHeight: 0,
          }}
        >
          <svg
            viewBox="0 0 24 24"
            width="22"
            height="22"
            fill="none"
            stroke="currentColor"
            strokeWidth="1.8"
            strokeLinecap="round"
            strokeLinejoin="round"
            aria-hidden="true"
          >
            <path d={path} />
          </svg>
        </Box>
      ))}
    </Box>
  )
}

function IconSettings({ block }: { block: Icon }) {
  return (
    <>
      <IconGrid
        value={block.name}
        onChange={name =>
          changeBlock<Icon>(block.id, b => {
            b.name = name
            b.path = icons[name]
          })
        }
      />
      <Num k="size" label="Size" unit="px" min={12} max={200} />
      <Pick k="align" label="Stands" options={sides} />
      <Colour k="color" label="Colour" usual="@ink" />
    </>
  )
}

const bounds: Partial<Record<Field['ask'], [string, string]>> = {
  number: ['Least', 'Most'],
  date: ['From', 'To'],
  text: ['Characters, least', 'Characters, most'],
  long: ['Characters, least', 'Characters, most'],
  choices: ['Choices, least', 'Choices, most'],
}

function FieldSettings({ block }: { block: Field }) {
  const { scene } = useScene()
  const set = (how: (b: Field) => void) => changeBlock(block.id, how)
  const others = flat(scene.blocks).flatMap(b => (b.kind === 'field' && b.id !== block.id ? [b.key] : []))
  const options = useMemo(() => (block.options ?? []).join('\n'), [block.options])
  const typed = ['text', 'long', 'phone', 'email', 'name'].includes(block.ask)
  return (
    <>
      <Choice
        label="Asks for"
        value={block.ask}
        options={Object.entries(asks) as [Field['ask'], string][]}
        onChange={ask =>
          set(b => {
            b.ask = ask
            b.key = keyFor(ask, others)
            if (/^(choice|choices|dropdown)$/.test(ask)) b.options ??= ['This', 'That', 'Something else']
            else delete b.options
            if (ask === 'hidden') b.from ??= 'query.utm_campaign'
            else delete b.from
            if (!bounds[ask]) {
              delete b.least
              delete b.most
            }
          })
        }
        k="ask"
      />
      <Line k="label" label="Label" max={block.ask === 'consent' ? 1000 : 200} lines={block.ask === 'consent' ? 2 : undefined} />
      {block.ask === 'hidden' && <HiddenFrom value={block.from ?? ''} onChange={from => set(b => void (b.from = from))} />}
      {block.options && (
        <Row label="A line each" k="options" wide>
          {id => <Typed id={id} value={options} lines={3} max={10_000} onChange={w => set(b => void (b.options = w.split('\n')))} />}
        </Row>
      )}
      {(typed || block.ask === 'dropdown') && <Line k="hint" label="Hint inside" max={200} optional />}
      {block.ask !== 'hidden' && <Flag k="required" label="Required" />}
      <Line k="key" label="Kept as" max={40} tidy={w => w.toLowerCase().replace(/[^a-z0-9_]/g, '_')} />
      {block.ask !== 'hidden' && (
        <More name="Rules and more">
          {bounds[block.ask] && (
            <>
              <Line k="least" label={bounds[block.ask]![0]} max={20} optional hint={block.ask === 'date' ? '2026-12-24' : ''} tidy={w => w.trim()} />
              <Line k="most" label={bounds[block.ask]![1]} max={20} optional tidy={w => w.trim()} />
            </>
          )}
          {(block.ask === 'text' || block.ask === 'phone') && (
            <Line k="pattern" label="Must look like" max={500} optional hint="a pattern, such as [A-Z]{2}\d+" />
          )}
          <Line k="message" label="Said when it does not fit" max={200} optional />
          <Line k="help" label="A line below" max={500} optional />
          {block.ask !== 'consent' && <Flag k="bare" label="Label only read aloud" />}
        </More>
      )}
    </>
  )
}

function HiddenFrom({ value, onChange }: { value: string; onChange(from: string): void }) {
  const [kind, name = ''] = value.split(/\.(.*)/s)
  return (
    <>
      <Choice
        label="Comes from"
        k="from"
        value={kind}
        options={[
          ['query', 'the address’s parameter'],
          ['data', 'the page’s data'],
          ['path', 'the page’s path'],
        ]}
        onChange={to => onChange(to === 'path' ? 'path' : `${to}.${name || 'utm_campaign'}`)}
      />
      {kind !== 'path' && (
        <Row label="Called">{id => <Typed id={id} value={name} max={80} onChange={w => onChange(`${kind}.${w.replace(/[^A-Za-z0-9_.-]/g, '')}`)} />}</Row>
      )}
    </>
  )
}

const deeds: readonly (readonly [Deed, string])[] = [
  ['send', 'sends the answers'],
  ['next', 'goes to the next scene'],
  ['scene', 'goes to a scene'],
  ['open', 'opens an address'],
  ['file', 'hands out a file'],
  ['close', 'closes it'],
  ['never', 'closes it for good'],
  ['copy', 'copies something'],
  ['scroll', 'scrolls the page to'],
  ['piece', 'opens another piece'],
  ['mail', 'writes a mail'],
  ['call', 'calls a number'],
]

function ButtonSettings({ block, at }: { block: Button; at: string }) {
  const { design, scene } = useScene()
  const { kit } = useSite()
  const fileFault = useFault(`${at}.press.file`)
  const set = (how: (b: Button) => void) => changeBlock(block.id, how)
  const scenes = design.scenes.filter(s => s.id !== scene.id).map(s => [s.id, s.name] as const)
  const { press } = block
  const { frame } = design
  const fill = block.fill || frame.accent
  const plainly = block.quiet || block.line
  const words = block.ink || (block.quiet ? frame.ink : block.line ? frame.accent : frame.accent_ink)
  const begin = (does: Deed): Button['press'] => {
    switch (does) {
      case 'send':
        return { do: does, scene: press.scene ?? design.scenes.find(s => s.kind === 'thanks' && s.id !== scene.id)?.id }
      case 'scene':
        return scenes[0] ? { do: does, scene: press.scene ?? scenes[0][0] } : { do: 'close' }
      case 'open':
        return { do: does, address: '/' }
      case 'mail':
        return { do: does, address: 'hello@example.com' }
      case 'call':
        return { do: does, address: '+353 555 0100' }
      case 'copy':
        return { do: does, text: 'WELCOME10' }
      case 'scroll':
        return { do: does, target: 'main' }
      default:
        return { do: does }
    }
  }
  return (
    <>
      <Line k="words" label="Words" max={200} />
      <Choice
        label="Pressing it"
        value={press.do}
        options={deeds}
        onChange={does => set(b => void (b.press = JSON.parse(JSON.stringify(begin(does)))))}
        at={`${at}.press.do`}
      />
      {(press.do === 'send' || press.do === 'scene') && (
        <Choice
          label={press.do === 'send' ? 'Then' : 'Goes to'}
          value={press.scene ?? ''}
          options={[
            ...(press.do === 'send' ? [['', 'closes'] as const] : []),
            ...scenes.map(([id, name]) => [id, `${press.do === 'send' ? 'goes to ' : ''}${name}`] as const),
          ]}
          onChange={to => set(b => void (b.press = { do: b.press.do, ...(to && { scene: to }) }))}
          at={`${at}.press.scene`}
        />
      )}
      {press.do === 'open' && (
        <>
          <Line k="press.address" label="Address" max={2000} tidy={w => w.trim()} />
          <Flag k="press.new_tab" label="In a new tab" />
          <Flag k="press.carry" label="With the answers" />
        </>
      )}
      {press.do === 'mail' && <Line k="press.address" label="To" max={254} tidy={w => w.trim()} />}
      {press.do === 'call' && <Line k="press.address" label="Number" max={40} />}
      {press.do === 'copy' && <Line k="press.text" label="Copies" max={2000} />}
      {press.do === 'scroll' && <Line k="press.target" label="To the element" max={500} hint="#prices" />}
      {press.do === 'piece' && (
        <OtherPiece value={press.piece ?? ''} at={`${at}.press.piece`} onChange={id => set(b => void (b.press = { do: 'piece', piece: id }))} />
      )}
      {press.do === 'file' && (
        <ChooseFile
          value={press.file ?? ''}
          fault={fileFault}
          onChoose={f => set(b => void (b.press = { do: 'file', file: f.hash, file_name: f.name.slice(0, 200) }))}
        />
      )}
      <Flag k="counts" label="Is the conversion" />
      <Rule />
      <Choice
        label="Drawn as"
        k="quiet"
        value={block.quiet ? 'quiet' : block.line ? 'line' : 'fill'}
        options={[
          ['fill', 'a filled button'],
          ['line', 'an outline'],
          ['quiet', 'plain words'],
        ]}
        onChange={to =>
          set(b => {
            b.quiet = to === 'quiet'
            if (to === 'line') b.line = true
            else delete b.line
          })
        }
      />
      {!plainly && <Colour k="fill" label="Fill" usual={frame.accent} />}
      <Colour k="ink" label="Words' colour" usual={block.quiet ? frame.ink : block.line ? frame.accent : frame.accent_ink} />
      {!block.quiet && <Colour k="hover" label="Under pointer" usual={fill} />}
      <Reads ink={paint(kit, words)} behind={paint(kit, plainly ? frame.background : fill)} />
      {!block.quiet && (
        <>
          <Choice
            label="Width"
            k="narrow"
            value={block.narrow ? 'narrow' : ''}
            options={[
              ['', 'as wide as the fields'],
              ['narrow', 'as wide as its words'],
            ]}
            onChange={to =>
              set(b => {
                if (to) b.narrow = true
                else delete b.narrow
              })
            }
          />
          <KitNum k="corners" label="Corners" min={0} max={64} kit={kit.button.corners} by={undefined} />
        </>
      )}
      {(block.narrow || block.quiet) && <Pick k="align" label="Stands" options={[['', block.quiet ? 'in the middle' : 'at the start'] as const, ...sides]} />}
      <More name="Size and movement">
        <Num k="size" label="Size" unit="px" min={12} max={32} usual={16} />
        <Pick
          k="stir"
          label="Draws the eye"
          options={[
            ['', 'no'],
            ['pulse', 'by a pulse'],
            ['nudge', 'by a nudge'],
            ['shine', 'by a shine'],
          ]}
        />
      </More>
    </>
  )
}

function OtherPiece({ value, at, onChange }: { value: string; at: string; onChange(id: string): void }) {
  const cards = useBoard().data?.cards ?? []
  const own = location.pathname.split('/')[2]
  return (
    <Choice
      label="Opens"
      value={value}
      options={[['', 'choose one'], ...cards.filter(c => c.id !== own).map(c => [c.id, c.name] as const)]}
      onChange={onChange}
      at={at}
    />
  )
}

function TimerSettings({ block }: { block: Timer }) {
  const { design, scene } = useScene()
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
          ['scene', 'goes to a scene'],
        ]}
      />
      {block.at_zero === 'words' && <Line k="words" label="The words" max={200} optional />}
      {block.at_zero === 'scene' && (
        <Pick
          k="scene"
          label="Which scene"
          options={[['', 'choose one'] as const, ...design.scenes.filter(s => s.id !== scene.id).map(s => [s.id, s.name] as const)]}
        />
      )}
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

function CodeSettings({ block }: { block: Code }) {
  const pools = usePools().data ?? []
  const { design } = useScene()
  return (
    <>
      <Choice
        label="The code"
        value={block.pool ? block.pool : ''}
        options={[['', 'is the same for everyone'] as const, ...pools.map(p => [p.id, `one of ${p.name}, ${p.left} left`] as const)]}
        onChange={pool =>
          changeBlock<Code>(block.id, b => {
            if (pool) {
              b.pool = pool
              delete b.code
            } else {
              delete b.pool
              b.code = 'WELCOME10'
            }
          })
        }
        k="pool"
      />
      {!block.pool && <Line k="code" label="Code" max={100} />}
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

function ColumnsSettings({ block }: { block: Columns }) {
  const widths = block.blocks.map((_, i) => block.widths?.[i] ?? Math.round(100 / block.blocks.length))
  return (
    <>
      <Row label="Parts" k="widths">
        {() => (
          <Box sx={{ display: 'flex', gap: '4px' }}>
            {widths.map((w, i) => (
              <OutlinedInput
                key={i}
                size="small"
                type="number"
                value={w}
                inputProps={{ min: 1, max: 100, 'aria-label': `Part of column ${i + 1}` }}
                onChange={e => {
                  const n = Math.round(Number(e.target.value))
                  if (n >= 1 && n <= 100) changeBlock<Columns>(block.id, b => void (b.widths = widths.map((x, j) => (j === i ? n : x))))
                }}
                sx={{ flex: 1, '& input': { px: '6px !important' } }}
              />
            ))}
          </Box>
        )}
      </Row>
      <Num k="gap" label="Between" unit="px" min={0} max={64} />
      <Pick
        k="lined"
        label="Lined up by"
        options={[
          ['', 'their tops'],
          ['middle', 'their middles'],
          ['end', 'their ends'],
        ]}
      />
      <Flag k="keep" label="Side by side on phones" />
    </>
  )
}

function LinksSettings({ block, at }: { block: Links; at: string }) {
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
