import Box from '@mui/material/Box'
import Skeleton from '@mui/material/Skeleton'

/** Stands for a screen while its script and its data come. */
export const Loading = () => (
  <Box aria-busy aria-label="Loading" sx={{ p: '22px 26px', display: 'grid', gap: '18px', width: '100%', maxWidth: 1500, mx: 'auto' }}>
    <Skeleton variant="rounded" width={260} height={32} />
    <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(290px, 1fr))', gap: '16px' }}>
      {[0, 1, 2].map(i => (
        <Skeleton key={i} variant="rounded" height={260} />
      ))}
    </Box>
  </Box>
)
