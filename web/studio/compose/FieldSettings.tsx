import { current, isDraft } from 'immer'
import type { Field } from '../../kinds/piece'
import { useDraft } from '../bench/draft'
import { usePiece } from '../queries'
import { askedOf, asks, chooses, keyFor } from './blocks'
import { Choices } from './Choices'
import { Choice, Flag, Line, More, Num, Pick, Row, Typed } from './controls'
import { flat, keysOf } from './tree'
import { changeBlock, useSeen } from './view'
import { Ways } from './Ways'

const bounds: Partial<Record<Field['ask'], [string, string]>> = {
  number: ['Least', 'Most'],
  date: ['From', 'To'],
  text: ['Characters, least', 'Characters, most'],
  long: ['Characters, least', 'Characters, most'],
  choices: ['Choices, least', 'Choices, most'],
  slider: ['Least', 'Most'],
}

/** What a draft holds, as plain values. */
const plainly = <T extends object>(x: T): T => (isDraft(x) ? (current(x as never) as T) : x)

/** What a field asks for, and what answers it takes. */
export function FieldSettings({ block, at }: { block: Field; at: string }) {
  const { design } = useSeen()
  const set = (how: (b: Field) => void) => changeBlock(block.id, how)
  const others = keysOf(design.scenes).filter(key => key !== block.key)
  const info = usePiece(useDraft(s => s.id)).data
  const collected = !!info?.live?.split.variants.some(v => v.design.scenes.some(s => flat(s.blocks).some(b => b.kind === 'field' && b.key === block.key)))
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
            // What was collected under a name stays under it.
            if (!collected) b.key = keyFor(ask, others)
            const { choices } = b
            for (const key of ['choices', 'look', 'from', 'advances', 'shuffle', 'right', 'points', 'step', 'start', 'unit'] as const)
              if (!(key === 'unit' && ask === 'number')) delete b[key]
            if (!bounds[ask]) {
              delete b.least
              delete b.most
            }
            Object.assign(b, askedOf(ask), chooses(ask) && choices ? { choices: structuredClone(plainly(choices)) } : {})
          })
        }
        k="ask"
      />
      <Line k="label" label="Label" max={block.ask === 'consent' ? 1000 : 200} lines={block.ask === 'consent' ? 2 : undefined} />
      {block.ask === 'hidden' && <HiddenFrom value={block.from ?? ''} onChange={from => set(b => void (b.from = from))} />}
      {block.choices && <Choices block={block} at={at} />}
      {(block.ask === 'choice' || block.ask === 'choices') && (
        <Pick
          k="look"
          label="Shown as"
          options={[
            ['', 'a row of buttons'],
            ['list', 'a list'],
            ['pictures', 'pictures'],
          ]}
        />
      )}
      {block.ask === 'choice' && <Flag k="advances" label="Goes on at once" />}
      {block.advances && <Ways block={block.id} label="Goes to" />}
      {(block.choices || block.ask === 'order') && <Flag k="shuffle" label="Shuffle" />}
      {block.ask === 'slider' && (
        <>
          <Line k="step" label="Step" max={20} optional hint="1" tidy={w => w.trim()} />
          <Line k="start" label="Starts at" max={20} optional hint={block.least} tidy={w => w.trim()} />
        </>
      )}
      {(block.ask === 'slider' || block.ask === 'number') && <Line k="unit" label="Unit" max={20} optional hint="kg" />}
      {(block.ask === 'text' || block.ask === 'number') && (
        <More name="Right answer" open={!!block.right?.length}>
          <Row label="One per line" k="right" wide>
            {id => (
              <Typed
                id={id}
                value={(block.right ?? []).join('\n')}
                lines={2}
                max={4000}
                onChange={w => set(b => (w ? void (b.right = w.split('\n')) : void delete b.right))}
              />
            )}
          </Row>
          <Num k="points" label="Score" min={-1000} max={1000} usual={0} />
        </More>
      )}
      {(block.choices || block.right?.length) && block.ask !== 'dropdown' && (
        <>
          <Flag k="reveal" label="Say if right" />
          {block.reveal && <Line k="explanation" label="Explanation" max={2000} lines={2} optional />}
        </>
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
          <Num k="width" label="Width" unit="%" min={20} max={100} usual={100} />
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
