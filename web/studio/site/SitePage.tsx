import Box from '@mui/material/Box'
import Typography from '@mui/material/Typography'
import type { ReactNode } from 'react'
import { NavLink } from 'react-router'
import { ink, paper, plum } from '../parts/look/theme'
import { useAddress } from '../server/queries'

const places = [
  ['/settings', 'Settings'],
  ['/settings/style', 'Style kit'],
  ['/settings/library', 'Library'],
  ['/settings/codes', 'Codes'],
] as const

/** The screens of a site’s settings, and the one that is open. */
export function SitePage({ wide, children }: { wide?: boolean; children: ReactNode }) {
  const at = useAddress()
  return (
    <Box component="main" sx={{ p: '22px 26px 40px', maxWidth: 1280, width: '100%', mx: 'auto', display: 'grid', gap: '18px', alignContent: 'start' }}>
      <Box sx={{ display: 'flex', alignItems: 'flex-end', gap: '30px', borderBottom: `1px solid ${paper.line}` }}>
        <Typography variant="h1" sx={{ pb: '8px' }}>
          Site
        </Typography>
        <Box component="nav" aria-label="Site settings" sx={{ display: 'flex', gap: '22px' }}>
          {places.map(([to, name]) => (
            <Box
              key={to}
              component={NavLink}
              to={at(to)}
              end
              sx={{
                pb: '9px',
                mb: '-1px',
                color: ink[2],
                textDecoration: 'none',
                borderBottom: '2px solid transparent',
                '&.active': { color: ink[1], fontWeight: 700, borderColor: plum.main },
              }}
            >
              {name}
            </Box>
          ))}
        </Box>
      </Box>
      <Box sx={{ display: 'grid', gap: '18px', minWidth: 0, maxWidth: wide ? undefined : 860 }}>{children}</Box>
    </Box>
  )
}
