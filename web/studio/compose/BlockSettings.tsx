import Box from '@mui/material/Box'
import OutlinedInput from '@mui/material/OutlinedInput'
import type { Align, Block, Button, Deed, Field, Heading, Picture, Text } from '../../kinds/piece'
import { useFault } from '../bench/draft'
import { ColorField, NumberField } from '../parts/fields'
import { ChoosePicture } from './ChoosePicture'
import { Row } from './Row'
import { Choice, colorsOf, Link, Reads, Rule, Toggle } from './Settings'
import { changeBlock, duplicateSelected, freshID, removeSelected, useScene } from './view'

/** A block's settings, few first. */
export function BlockSettings({ block, at }: { block: Block; at: string }) {
  return (
    <>
      {(block.kind === 'heading' || block.kind === 'text') && <WordsSettings block={block} at={at} />}
      {block.kind === 'picture' && <PictureSettings block={block} at={at} />}
      {block.kind === 'field' && <FieldSettings block={block} at={at} />}
      {block.kind === 'button' && <ButtonSettings block={block} at={at} />}
      <Rule />
      <Box sx={{ display: 'flex', gap: 2, px: '16px', pt: '2px', fontSize: 13 }}>
        <Link onClick={duplicateSelected}>Duplicate</Link>
        <Link onClick={removeSelected}>Take out</Link>
      </Box>
    </>
  )
}

function Words({ id, value, lines, max, onChange }: { id: string; value: string; lines?: boolean; max: number; onChange(words: string): void }) {
  return (
    <OutlinedInput
      id={id}
      size="small"
      fullWidth
      multiline={lines}
      minRows={lines ? 2 : undefined}
      maxRows={8}
      value={value}
      onChange={e => onChange(e.target.value)}
      inputProps={{ maxLength: max }}
    />
  )
}

const sides = [
  ['start', 'Left'],
  ['center', 'Middle'],
  ['end', 'Right'],
] as const

const AlignChoice = ({ value, onChange }: { value: Align; onChange(align: (typeof sides)[number][0]): void }) => (
  <Choice label="Stands" value={value as 'start'} options={sides} onChange={onChange} />
)

function WordsSettings({ block, at }: { block: Heading | Text; at: string }) {
  const { design } = useScene()
  const set = (how: (b: Heading | Text) => void) => changeBlock(block.id, how)
  const [least, most] = block.kind === 'heading' ? [12, 72] : [10, 40]
  const ink = block.color || design.frame.ink
  return (
    <>
      <Row label="Words" at={`${at}.text`}>
        {id => <Words id={id} value={block.text} lines max={10_000} onChange={w => set(b => void (b.text = w))} />}
      </Row>
      <Row label="">
        {() => (
          <Box component="span" sx={{ fontSize: 12.5, color: 'text.secondary' }}>
            Greet by name with <Link onClick={() => set(b => void (b.text += ' {first name|friend}'))}>{'{first name|friend}'}</Link>
          </Box>
        )}
      </Row>
      <Row label="Size">{id => <NumberField id={id} value={block.size} unit="px" min={least} max={most} onChange={n => set(b => void (b.size = n))} />}</Row>
      <AlignChoice value={block.align} onChange={align => set(b => void (b.align = align))} />
      <Row label="Colour" at={`${at}.color`}>
        {id => (
          <ColorField
            id={id}
            label="Colour"
            value={ink}
            near={colorsOf(design)}
            onChange={c => set(b => void (b.color = c === design.frame.ink ? undefined : c))}
          />
        )}
      </Row>
      <Reads ink={ink} behind={design.frame.background} />
    </>
  )
}

function PictureSettings({ block, at }: { block: Picture; at: string }) {
  const set = (how: (b: Picture) => void) => changeBlock(block.id, how)
  return (
    <>
      <ChoosePicture
        value={block.picture}
        fault={useFault(`${at}.picture`)}
        onChoose={p =>
          set(b => {
            b.picture = p.hash
            b.ratio = Math.max(10, Math.min(400, Math.round((100 * p.height) / p.width)))
          })
        }
      />
      <Row label="Says, to those who cannot see it" at={`${at}.alt`}>
        {id => <Words id={id} value={block.alt} lines max={500} onChange={w => set(b => void (b.alt = w))} />}
      </Row>
      <Row label="Width">{id => <NumberField id={id} value={block.width} unit="%" min={10} max={100} onChange={n => set(b => void (b.width = n))} />}</Row>
      <Row label="Height">
        {id => <NumberField id={id} value={block.ratio} unit="% of width" min={10} max={400} onChange={n => set(b => void (b.ratio = n))} />}
      </Row>
      <Row label="Corners">{id => <NumberField id={id} value={block.corners} unit="px" min={0} max={64} onChange={n => set(b => void (b.corners = n))} />}</Row>
      <AlignChoice value={block.align} onChange={align => set(b => void (b.align = align))} />
    </>
  )
}

function FieldSettings({ block, at }: { block: Field; at: string }) {
  const { scene } = useScene()
  const set = (how: (b: Field) => void) => changeBlock(block.id, how)
  const others = scene.blocks.flatMap(b => (b.kind === 'field' && b.id !== block.id ? [b.key] : []))
  return (
    <>
      <Choice
        label="Asks for"
        value={block.ask}
        options={
          [
            ['email', 'an email address'],
            ['name', 'a first name'],
            ['text', 'a line of text'],
          ] as const
        }
        onChange={ask =>
          set(b => {
            b.ask = ask
            const plain = ask === 'text' ? 'answer' : ask
            b.key = others.includes(plain) || ask === 'text' ? freshID(plain, others) : plain
          })
        }
        at={`${at}.ask`}
      />
      <Row label="Label" at={`${at}.label`}>
        {id => <Words id={id} value={block.label} max={200} onChange={w => set(b => void (b.label = w))} />}
      </Row>
      <Row label="Hint inside" at={`${at}.hint`}>
        {id => <Words id={id} value={block.hint ?? ''} max={200} onChange={w => set(b => void (b.hint = w || undefined))} />}
      </Row>
      <Row label="Kept as" at={`${at}.key`}>
        {id => <Words id={id} value={block.key} max={40} onChange={w => set(b => void (b.key = w.toLowerCase().replace(/[^a-z0-9_]/g, '_')))} />}
      </Row>
      <Toggle label="Required" on={block.required} onChange={on => set(b => void (b.required = on))} />
    </>
  )
}

const deeds: readonly (readonly [Deed, string])[] = [
  ['send', 'sends the answers'],
  ['scene', 'goes to a scene'],
  ['open', 'opens an address'],
  ['close', 'closes the piece'],
]

function ButtonSettings({ block, at }: { block: Button; at: string }) {
  const { design, scene } = useScene()
  const set = (how: (b: Button) => void) => changeBlock(block.id, how)
  const { press } = block
  const scenes = design.scenes.filter(s => s.id !== scene.id).map(s => [s.id, s.name] as const)
  const fill = block.fill || design.frame.accent
  const ink = block.ink || (block.quiet ? design.frame.ink : design.frame.accent_ink)
  return (
    <>
      <Row label="Words" at={`${at}.words`}>
        {id => <Words id={id} value={block.words} max={200} onChange={w => set(b => void (b.words = w))} />}
      </Row>
      <Choice
        label="Pressing it"
        value={press.do}
        options={deeds}
        onChange={does =>
          set(b => {
            b.press =
              does === 'open'
                ? { do: does, address: 'https://' }
                : does === 'scene' || does === 'send'
                  ? { do: does, scene: b.press.scene ?? scenes[0]?.[0] }
                  : { do: does }
            if (does === 'scene' && !b.press.scene) b.press = { do: 'close' }
          })
        }
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
        <Row label="Address" at={`${at}.press.address`}>
          {id => <Words id={id} value={press.address ?? ''} max={2000} onChange={w => set(b => void (b.press = { do: 'open', address: w.trim() }))} />}
        </Row>
      )}
      <Toggle label="Is the conversion" on={block.counts} onChange={on => set(b => void (b.counts = on))} />
      <Rule />
      <Toggle label="Plain words" on={block.quiet} onChange={on => set(b => void (b.quiet = on))} />
      {!block.quiet && (
        <Row label="Fill" at={`${at}.fill`}>
          {id => (
            <ColorField
              id={id}
              label="Fill"
              value={fill}
              near={colorsOf(design)}
              onChange={c => set(b => void (b.fill = c === design.frame.accent ? undefined : c))}
            />
          )}
        </Row>
      )}
      <Row label="Words' colour" at={`${at}.ink`}>
        {id => <ColorField id={id} label="Words' colour" value={ink} near={colorsOf(design)} onChange={c => set(b => void (b.ink = c))} />}
      </Row>
      <Reads ink={ink} behind={block.quiet ? design.frame.background : fill} />
    </>
  )
}
