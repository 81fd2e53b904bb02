import Box, { type BoxProps } from '@mui/material/Box'
import { bite, paper } from './theme'

/** A sheet of paper on the desk. The one that answers a screen's question is bitten. */
export function Sheet({ bitten, sx, ...rest }: BoxProps<'section'> & { bitten?: boolean }) {
  return (
    <Box
      component="section"
      {...rest}
      sx={[
        { background: paper.sheet, border: `1px solid ${paper.line}`, borderRadius: '10px', padding: '16px 20px' },
        bitten ? bite(22) : {},
        ...(Array.isArray(sx) ? sx : [sx]),
      ]}
    />
  )
}
