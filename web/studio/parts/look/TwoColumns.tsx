import Box from '@mui/material/Box'
import type { ReactNode } from 'react'

/** A place's sheets: the work to the left, what belongs beside it to the right. */
export const TwoColumns = ({ children }: { children: ReactNode }) => (
  <Box
    sx={{
      display: 'grid',
      gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: 'minmax(0, 1fr) 330px', lg: 'minmax(0, 1fr) 388px' },
      gap: '18px',
      p: '18px 24px 28px',
      alignItems: 'start',
      width: '100%',
      maxWidth: 1500,
      mx: 'auto',
    }}
  >
    {children}
  </Box>
)
