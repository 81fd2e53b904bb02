import Box from '@mui/material/Box'
import { apricot, bite } from './theme'

/** Gobbet's mark. */
export const Mark = ({ size = 24 }: { size?: number }) => (
  <Box aria-hidden data-hue sx={{ width: size, height: size, background: apricot.bright, borderRadius: size / 4 + 'px', ...bite(size * 0.375) }} />
)
