import Box from '@mui/material/Box'
import visuallyHidden from '@mui/utils/visuallyHidden'
import { apricot, ink, plum } from '../parts/look/theme'
import { count } from '../parts/words/say'
import { useBuilder } from './builder'

/** Beside the line, or below it where the screen is narrow. */
const room = { width: { xs: '100%', sm: 178 }, pl: { xs: '20px', sm: 0 }, flex: 'none' }

/** How many recorded page views a line lets through, beside those it holds back. */
export function Sieve({ left, before, moment, label }: { left?: number; before: number; moment?: boolean; label: string }) {
  const { total } = useBuilder()
  if (left === undefined || !total) return <Box sx={{ ...room, display: { xs: 'none', sm: 'block' } }} />
  const width = (n: number) => (n > 0 ? Math.max(2, (n / total) * 96) : 0)
  return (
    <Box
      data-left={left}
      title={`${label}: lets ${count(left)} of ${count(before)} page views through`}
      sx={{ ...room, display: 'flex', alignItems: 'center', gap: '8px', fontSize: 12.5, color: ink[2] }}
    >
      <Box sx={{ width: 98, display: 'flex' }} aria-hidden>
        <Box data-hue sx={{ height: 12, borderRadius: '2px', background: moment ? apricot.main : plum.main, opacity: 0.85 }} style={{ width: width(left) }} />
        <Box
          data-hue
          sx={{ height: 12, borderRadius: '2px', background: 'repeating-linear-gradient(135deg,#d9cbb6 0 3px,#0000 3px 6px)' }}
          style={{ width: width(before - left) }}
        />
      </Box>
      <Box component="span" sx={{ width: 70, textAlign: 'end' }}>
        {count(left)}
        <Box component="span" sx={visuallyHidden}>
          {' '}
          page views let through
        </Box>
      </Box>
    </Box>
  )
}
