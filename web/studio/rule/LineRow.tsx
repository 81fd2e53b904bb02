import Box from '@mui/material/Box'
import type { ReactNode } from 'react'

/** What a line of a rule says, and beside it (on a narrow screen below it) what can be done with it and what it lets through. */
export const LineRow = ({ children, tail }: { children: ReactNode; tail: ReactNode }) => (
  <Box sx={{ display: 'flex', flexWrap: { xs: 'wrap', sm: 'nowrap' }, alignItems: 'center', pl: '10px' }}>
    <Box sx={{ display: 'flex', alignItems: 'center', minHeight: 38, gap: '7px', flexWrap: 'wrap', flex: 1, minWidth: 0 }}>{children}</Box>
    {tail}
  </Box>
)
