import Close from '@mui/icons-material/Close'
import Box from '@mui/material/Box'
import ButtonBase from '@mui/material/ButtonBase'
import IconButton from '@mui/material/IconButton'
import Typography from '@mui/material/Typography'
import type { Caps } from '../../kinds/caps'
import type { Fault } from '../../kinds/fault'
import { brick, plum } from '../parts/look/theme'
import { spansFor } from '../rule/spans'
import { NumberToken, WordSelect } from '../rule/tokens'

/** A span in words. Spans that the list lacks are shown as they are kept. */
function SpanToken({ label, value, extra = [], onChange }: { label: string; value: string; extra?: [string, string][]; onChange(span: string): void }) {
  return <WordSelect label={label} value={value} options={spansFor(extra)} onChange={onChange} />
}

const forever: [string, string] = ['forever', 'for ever']

/** How often one visitor may see it, as sentences. */
export function CapsLines({ caps, faults, onChange }: { caps: Caps; faults: Fault[]; onChange(how: (caps: Caps) => void): void }) {
  const limits = caps.per_visitor ?? []
  const wrong = faults.filter(f => f.at.startsWith('caps'))
  return (
    <Box sx={{ pl: '14px', pt: '4px' }}>
      {limits.map((limit, i) => (
        <Line key={i}>
          {i > 0 && <i>and</i>}
          <NumberToken
            label="How many times"
            value={limit.times}
            wrong={wrong.some(f => f.at.startsWith(`caps.per_visitor[${i}].times`))}
            onChange={n => onChange(c => void (c.per_visitor![i].times = Math.max(1, Math.round(n))))}
          />
          <span>
            {limit.times === 1 ? 'time' : 'times'} {limit.per === 'visit' ? 'a' : limit.per === 'forever' ? '' : 'in'}
          </span>
          <SpanToken
            label="Over how long"
            value={limit.per}
            extra={[['visit', 'visit'], forever]}
            onChange={per => onChange(c => void (c.per_visitor![i].per = per))}
          />
          <span>to one visitor</span>
          <IconButton size="small" aria-label={`Remove limit ${i + 1}`} onClick={() => onChange(c => void c.per_visitor!.splice(i, 1))} sx={{ p: '2px' }}>
            <Close sx={{ fontSize: 15 }} />
          </IconButton>
        </Line>
      ))}
      {!limits.length && <Line>No limit per visitor</Line>}
      <ButtonBase
        onClick={() => onChange(c => void (c.per_visitor = [...limits, { times: limits.length ? 3 : 1, per: limits.length ? 'P30D' : 'visit' }]))}
        sx={{ color: plum.main, fontWeight: 600, fontSize: 13, py: '3px', '&:hover': { textDecoration: 'underline' } }}
      >
        + limit
      </ButtonBase>
      <Line>
        wait
        <SpanToken
          label="Wait after a close"
          value={caps.after_close ?? ''}
          extra={[['', 'not at all'], forever]}
          onChange={span => onChange(c => void (c.after_close = span || undefined))}
        />
        after a close, and
        <SpanToken
          label="Wait after a conversion"
          value={caps.after_convert ?? ''}
          extra={[['', 'not at all'], forever]}
          onChange={span => onChange(c => void (c.after_convert = span || undefined))}
        />
        after a conversion
      </Line>
      <Line>
        at least
        <SpanToken
          label="Minimum time between views"
          value={caps.gap ?? ''}
          extra={[['', 'no time']]}
          onChange={span => onChange(c => void (c.gap = span || undefined))}
        />
        between two views, and
        <WordSelect
          label="Total limit"
          value={caps.total ? 'some' : ''}
          options={[
            ['', 'no limit'],
            ['some', 'at most'],
          ]}
          onChange={v => onChange(c => void (c.total = v ? 1000 : undefined))}
        />
        {caps.total ? (
          <>
            <NumberToken
              label="Total views"
              value={caps.total}
              wrong={wrong.some(f => f.at === 'caps.total')}
              onChange={n => onChange(c => void (c.total = Math.max(1, Math.round(n))))}
            />
            views
          </>
        ) : null}{' '}
        in total
      </Line>
      <Line>
        people already on the list
        <WordSelect
          label="People already on the list"
          value={caps.not_leads ? 'not' : 'too'}
          options={[
            ['too', 'see it too'],
            ['not', 'do not see it'],
          ]}
          onChange={v => onChange(c => void (c.not_leads = v === 'not' || undefined))}
        />
      </Line>
      {wrong.map(f => (
        <Typography key={f.at} variant="body2" role="alert" sx={{ color: brick.main, fontWeight: 600 }}>
          {f.message}
        </Typography>
      ))}
    </Box>
  )
}

export const Line = ({ children }: { children: React.ReactNode }) => (
  <Box sx={{ display: 'flex', alignItems: 'center', gap: '7px', minHeight: 36, flexWrap: 'wrap', '& > i': { color: 'text.secondary', fontSize: 13 } }}>
    {children}
  </Box>
)
