import Box from '@mui/material/Box'
import ButtonBase from '@mui/material/ButtonBase'
import Typography from '@mui/material/Typography'
import type { Fault } from '../../kinds/fault'
import type { Schedule } from '../../kinds/schedule'
import { DateTimeField } from '../parts/forms/DateTimeField'
import { brick, ink, paper, plum } from '../parts/look/theme'
import { today } from '../parts/words/time'
import { TimeToken, WordSelect } from '../rule/tokens'
import { useSite } from '../server/queries'
import { Line } from './CapsLines'

const days: [string, string][] = [
  ['mon', 'Monday'],
  ['tue', 'Tuesday'],
  ['wed', 'Wednesday'],
  ['thu', 'Thursday'],
  ['fri', 'Friday'],
  ['sat', 'Saturday'],
  ['sun', 'Sunday'],
]

/** On which days and at which hours it may show, as sentences. */
export function ScheduleLines({ schedule, faults, onChange }: { schedule: Schedule; faults: Fault[]; onChange(next: Schedule): void }) {
  const zone = useSite().zone
  const wrong = faults.filter(f => f.at.startsWith('schedule'))
  const at = (place: string) => wrong.some(f => f.at.startsWith('schedule.' + place))
  const hours = schedule.hours ?? []
  const put = (change: Partial<Schedule>) => {
    const next: Schedule = { ...schedule, ...change }
    // What says nothing is left out.
    for (const key of ['from', 'until', 'zone'] as const) if (!next[key]) delete next[key]
    for (const key of ['days', 'hours'] as const) if (!next[key]?.length) delete next[key]
    onChange(next)
  }
  const picked = schedule.days ?? []
  const whose = schedule.zone === 'visitor' ? 'Time where the visitor is' : `Time in ${zone}`
  return (
    <Box sx={{ pl: '14px', pt: '4px' }}>
      <Line>
        from
        <End label="Start" open="launch" whose={whose} value={schedule.from} wrong={at('from')} onChange={from => put({ from })} />
        until
        <End label="End" open="it is paused" whose={whose} value={schedule.until} wrong={at('until')} onChange={until => put({ until })} />
      </Line>
      <Line>
        on
        <Box role="group" aria-label="Days of the week" sx={{ display: 'flex', gap: '4px', flexWrap: 'wrap' }}>
          {days.map(([key, name]) => {
            const on = picked.includes(key)
            return (
              <ButtonBase
                key={key}
                aria-pressed={on}
                onClick={() => put({ days: on ? picked.filter(d => d !== key) : [...picked, key].sort((a, b) => order(a) - order(b)) })}
                sx={{
                  borderRadius: '4px',
                  px: '7px',
                  py: '2px',
                  fontSize: 13,
                  fontWeight: on ? 600 : 450,
                  color: on ? plum.main : ink[2],
                  background: on ? plum.wash : 'transparent',
                  border: `1px solid ${on ? plum.main : paper.line}`,
                }}
              >
                {name}
              </ButtonBase>
            )
          })}
        </Box>
        {!picked.length && <i>every day</i>}
      </Line>
      {hours.map((h, i) => (
        <Line key={i}>
          {i > 0 && <i>and</i>}
          between
          <TimeToken label="Hours, from" value={h.from} wrong={at(`hours[${i}]`)} onChange={from => put({ hours: hours.with(i, { ...h, from }) })} />
          and
          <TimeToken label="Hours, to" value={h.to} wrong={at(`hours[${i}]`)} onChange={to => put({ hours: hours.with(i, { ...h, to: to || 1440 }) })} />
          {h.to <= h.from && <i>of the next day</i>}
          <Plain onClick={() => put({ hours: hours.toSpliced(i, 1) })}>remove</Plain>
        </Line>
      ))}
      <Line>
        <Plain onClick={() => put({ hours: [...hours, { from: 9 * 60, to: 17 * 60 }] })}>+ hours of the day</Plain>
        {(hours.length > 0 || picked.length > 0 || schedule.from || schedule.until) && (
          <>
            <i>in the time zone of</i>
            <WordSelect
              label="Time zone"
              value={schedule.zone || 'site'}
              options={[
                ['site', `the site (${zone})`],
                ['visitor', 'the visitor'],
              ]}
              onChange={z => put({ zone: z === 'visitor' ? 'visitor' : '' })}
            />
          </>
        )}
      </Line>
      {wrong.map(f => (
        <Typography key={f.at} variant="body2" role="alert" sx={{ color: brick.main, fontWeight: 600 }}>
          {f.message}
        </Typography>
      ))}
    </Box>
  )
}

/** A bound in time, or none. */
function End({
  label,
  open,
  value,
  whose,
  wrong,
  onChange,
}: {
  label: string
  open: string
  value?: string
  whose: string
  wrong: boolean
  onChange(at: string): void
}) {
  return value ? (
    <>
      <DateTimeField bare label={label} zone={whose} value={value} wrong={wrong} onChange={onChange} />
      <Plain onClick={() => onChange('')}>remove</Plain>
    </>
  ) : (
    <WordSelect
      label={label}
      value=""
      options={[
        ['', open],
        ['at', 'a day and time…'],
      ]}
      onChange={() => onChange(`${today()}T09:00`)}
    />
  )
}

const order = (day: string) => days.findIndex(([key]) => key === day)

const Plain = ({ onClick, children }: { onClick(): void; children: React.ReactNode }) => (
  <ButtonBase onClick={onClick} sx={{ color: plum.main, fontWeight: 600, fontSize: 13, py: '3px', '&:hover': { textDecoration: 'underline' } }}>
    {children}
  </ButtonBase>
)
