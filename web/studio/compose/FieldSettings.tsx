import { useMemo } from 'react'
import type { Field } from '../../kinds/piece'
import { useDraft } from '../bench/draft'
import { usePiece } from '../queries'
import { asks, keyFor } from './blocks'
import { Choice, Flag, Line, More, Num, Row, Typed } from './controls'
import { flat } from './tree'
import { changeBlock, useSeen } from './view'

const bounds: Partial<Record<Field['ask'], [string, string]>> = {
  number: ['Least', 'Most'],
  date: ['From', 'To'],
  text: ['Characters, least', 'Characters, most'],
  long: ['Characters, least', 'Characters, most'],
  choices: ['Choices, least', 'Choices, most'],
}

/** What a field asks for, and what answers it takes. */
export function FieldSettings({ block }: { block: Field }) {
  const { scene } = useSeen()
  const set = (how: (b: Field) => void) => changeBlock(block.id, how)
  const others = flat(scene.blocks).flatMap(b => (b.kind === 'field' && b.id !== block.id ? [b.key] : []))
  const info = usePiece(useDraft(s => s.id)).data
  const collected = !!info?.live?.split.variants.some(v => v.design.scenes.some(s => flat(s.blocks).some(b => b.kind === 'field' && b.key === block.key)))
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
            // What was collected under a name stays under it.
            if (!collected) b.key = keyFor(ask, others)
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
