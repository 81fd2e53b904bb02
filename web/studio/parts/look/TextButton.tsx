import Box from '@mui/material/Box'
import type { ReactNode } from 'react'

/** A button that looks like a link in a text; label says more than its words, where they alone are not enough. */
export function TextButton({ onClick, children, label }: { onClick(): void; children: ReactNode; label?: string }) {
  return (
    <Box
      component="button"
      type="button"
      onClick={onClick}
      aria-label={label}
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
