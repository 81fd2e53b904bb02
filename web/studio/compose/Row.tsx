import Box from '@mui/material/Box'
import Typography from '@mui/material/Typography'
import { type ReactNode, useId } from 'react'
import { useFault } from '../bench/draft'
import { brick, ink } from '../theme'

/** A setting: what it is, what it is set to, and what is wrong with that at its place in the document. */
export function Row({ label, at, children }: { label: string; at?: string; children: (id: string) => ReactNode }) {
  const fault = useFault(at ?? '?')
  const id = useId()
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: '98px minmax(0, 1fr)', alignItems: 'center', gap: '3px 8px', p: '5px 16px', fontSize: 13 }}>
      <Box component="label" htmlFor={id} sx={{ color: ink[2] }}>
        {label}
      </Box>
      <div>{children(id)}</div>
      {fault && (
        <Typography variant="body2" role="alert" sx={{ gridColumn: 2, color: brick.main, fontWeight: 600 }}>
          {fault}
        </Typography>
      )}
    </Box>
  )
}
