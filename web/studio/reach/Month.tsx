import Box from '@mui/material/Box'
import type { MonthDay } from '../../kinds/studio'
import { apricot, ink, paper } from '../parts/look/theme'
import { WordSelect } from '../rule/tokens'

/** The month ahead under the caps: a cell a day. */
export function Month({ days, say, every, onEvery }: { days: MonthDay[]; say: string; every: number; onEvery(days: number): void }) {
  return (
    <Box sx={{ borderTop: `1px solid ${paper.line}`, pt: '8px', mt: '6px' }}>
      <Box sx={{ fontSize: 12.5, display: 'flex', gap: '5px', alignItems: 'baseline', flexWrap: 'wrap' }}>
        <b>Next 30 days,</b> one visit
        <WordSelect
          plain
          size={12.5}
          label="How often they come"
          value={String(every)}
          options={[
            ['1', 'every day'],
            ['2', 'every other day'],
            ['3', 'every three days'],
            ['7', 'every week'],
          ]}
          onChange={n => onEvery(Number(n))}
        />
      </Box>
      <Box sx={{ display: 'flex', gap: '3px', mt: '6px' }} role="img" aria-label={say}>
        {days.map((day, i) => (
          <Box
            key={i}
            title={`Day ${i + 1}: ${day.shows ? 'shows' : day.held || (day.visit ? 'comes, does not show' : 'no visit')}`}
            data-hue
            sx={{ flex: 1, height: 20, borderRadius: '2px', background: day.shows ? apricot.main : day.visit ? '#d9cbb6' : '#efe8dc' }}
          />
        ))}
      </Box>
      <Box sx={{ fontSize: 12.5, color: ink[2], mt: '5px' }}>{say}</Box>
    </Box>
  )
}
