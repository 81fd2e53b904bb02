import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import { useRouteError } from 'react-router'

/** Stands in for a screen that could not be drawn. */
export function Broken() {
  const error = useRouteError()
  console.error(error)
  return (
    <Box component="main" role="alert" sx={{ maxWidth: 520, margin: '18vh auto', px: 3 }}>
      <Typography variant="h1">This screen could not be shown</Typography>
      <Typography sx={{ my: 1.5 }}>
        Your work is kept in this browser. Reload the page to continue. {error instanceof Error ? `(${error.message})` : ''}
      </Typography>
      <Button variant="contained" onClick={() => location.reload()}>
        Reload
      </Button>
    </Box>
  )
}
