import Box from '@mui/material/Box'
import MenuItem from '@mui/material/MenuItem'
import Select from '@mui/material/Select'
import Typography from '@mui/material/Typography'
import { keepPreviousData, useQuery } from '@tanstack/react-query'
import { type ReactNode, useDeferredValue, useState } from 'react'
import type { FactBook, TryAnswer } from '../../kinds/studio'
import { api } from '../api'
import { Sheet } from '../parts/Sheet'
import { useSite } from '../queries'
import { apricot, brick, ink, moss, paper } from '../theme'
import type { Rule, Verdict } from './kinds'
import { pathOf } from './rules'

const marks: Record<Verdict, [string, string]> = { yes: ['✓', moss.ink], no: ['✗', brick.main], waits: ['◔', apricot.ink] }

/** A made-up visitor arrives; says what the rule makes of them, clause by clause. */
export function TryVisitor({ rule, book }: { rule: Rule; book: FactBook }) {
  const site = useSite()
  const [page, setPage] = useState(() => pathOf(rule))
  const [device, setDevice] = useState('desktop')
  const [channel, setChannel] = useState('direct')
  const [visits, setVisits] = useState(1)
  const visitor = useDeferredValue(JSON.stringify({ rule, page, device, channel, visits }))
  const values = (name: string) => book.facts.find(f => f.name === name)?.values ?? []
  const { data, error } = useQuery({
    queryKey: ['try', site.id, visitor],
    queryFn: ({ signal }) => {
      const [path, query = ''] = page.split('?')
      const facts: Record<string, unknown> = {
        'page.path': path,
        'page.url': (site.origins[0] ?? '') + page,
        'device.kind': device,
        'device.width': { desktop: 1280, tablet: 820, phone: 390 }[device],
        'device.language': 'en',
        'source.channel': channel,
        'visitor.visits': visits,
        'visitor.new': visits === 1,
        'visitor.pages': visits * 3 - 2,
        'visitor.pages_this_visit': 1,
        'visitor.landing_path': path,
        'visitor.lead': false,
        ...(visits > 1 && { 'visitor.days_since_last': 3 }),
      }
      for (const [name, value] of new URLSearchParams(query)) facts['page.query.' + name] = value
      return api<TryAnswer>('POST', `/sites/${site.id}/try`, { rule, facts, now: new Date().toISOString() }, signal)
    },
    placeholderData: keepPreviousData,
    retry: false,
  })
  return (
    <Sheet bitten sx={{ p: '16px 18px 20px' }}>
      <Typography variant="h2" sx={{ fontSize: 17 }}>
        Try a visitor
      </Typography>
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: '7px 12px', my: '12px' }}>
        <Ask label="Page">
          <Box
            component="input"
            aria-label="Page they open"
            value={page}
            onChange={e => setPage(e.target.value)}
            onBlur={() => setPage('/' + page.trim().replace(/^\/+/, ''))}
            sx={{ font: 'inherit', fontWeight: 600, border: 0, background: 'none', textAlign: 'end', minWidth: 0, width: '100%', color: ink[1] }}
          />
        </Ask>
        <Ask label="Device">
          <Pick label="Their device" value={device} options={values('device.kind')} onChange={setDevice} />
        </Ask>
        <Ask label="From">
          <Pick label="Where they come from" value={channel} options={values('source.channel')} onChange={setChannel} />
        </Ask>
        <Ask label="Visit">
          <Pick
            label="Which visit it is"
            value={String(visits)}
            options={['1', '2', '3', '5', '10']}
            onChange={v => setVisits(Number(v))}
            says={v => (v === '1' ? 'first' : v === '2' ? '2nd' : v === '3' ? '3rd' : v + 'th')}
          />
        </Ask>
      </Box>
      {error ? (
        <Box sx={{ p: '10px 12px', borderRadius: '8px', background: paper.bench, color: ink[2] }}>The rule has something to mend first.</Box>
      ) : (
        data && (
          <>
            <Box
              data-verdict={data.verdict}
              sx={{
                p: '10px 12px',
                borderRadius: '8px',
                fontWeight: 600,
                mb: '10px',
                ...{
                  yes: { background: moss.wash, color: moss.ink },
                  no: { background: brick.wash, color: '#8a3122' },
                  waits: { background: apricot.wash, color: '#7a3b12' },
                }[data.verdict],
              }}
            >
              {data.verdict === 'yes' ? 'Shows on arrival.' : data.verdict === 'no' ? 'Does not show on this page view.' : `Waits. Shows when ${data.needs}.`}
            </Box>
            {data.trace.map(step => (
              <Box key={step.at} sx={{ display: 'flex', gap: '9px', fontSize: 13, py: '4px', alignItems: 'baseline' }}>
                <Box component="b" aria-label={step.verdict} sx={{ width: 16, color: marks[step.verdict][1] }}>
                  {marks[step.verdict][0]}
                </Box>
                <span>
                  {step.phrase}{' '}
                  {step.verdict === 'no' && (
                    <Box component="span" sx={{ color: ink[2] }}>
                      ({step.actual === null ? 'not known' : `it is ${step.actual}`})
                    </Box>
                  )}
                </span>
              </Box>
            ))}
            {!data.trace.length && <Typography color="textSecondary">There is no condition to judge.</Typography>}
          </>
        )
      )}
    </Sheet>
  )
}

function Ask({ label, children }: { label: string; children: ReactNode }) {
  return (
    <Box
      sx={{
        borderBottom: `1px solid ${paper.line}`,
        pb: '3px',
        fontSize: 13,
        display: 'flex',
        justifyContent: 'space-between',
        alignItems: 'baseline',
        gap: 1,
        '&:focus-within': { borderColor: 'primary.main' },
      }}
    >
      <Box component="span" sx={{ color: ink[2] }}>
        {label}
      </Box>
      {children}
    </Box>
  )
}

function Pick({
  label,
  value,
  options,
  onChange,
  says = v => v,
}: {
  label: string
  value: string
  options: string[]
  onChange(v: string): void
  says?(v: string): string
}) {
  return (
    <Select
      variant="standard"
      disableUnderline
      value={value}
      onChange={e => onChange(e.target.value)}
      inputProps={{ 'aria-label': label }}
      sx={{ fontSize: 13, fontWeight: 600, '& .MuiSelect-select': { py: 0, pr: '20px !important' }, '& svg': { fontSize: 17 } }}
    >
      {options.map(o => (
        <MenuItem key={o} value={o}>
          {says(o)}
        </MenuItem>
      ))}
    </Select>
  )
}
