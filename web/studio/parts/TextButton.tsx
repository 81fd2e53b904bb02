import Box from '@mui/material/Box'
import type { ReactNode } from 'react'

/** A button that looks like a link in a text. */
export function TextButton({ onClick, children }: { onClick(): void; children: ReactNode }) {
  return (
    <Box
      component="button"
      type="button"
      onClick={onClick}
      sx={{
        border: 0,
        p: 0,
        background: 'none',
        font: 'inherit',
        fontWeight: 600,
        color: 'primary.main',
        cursor: 'pointer',
        textAlign: 'start',
        '&:hover': { textDecoration: 'underline' },
      }}
    >
      {children}
    </Box>
  )
}
