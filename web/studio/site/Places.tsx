import Box from '@mui/material/Box'
import Typography from '@mui/material/Typography'
import type { ReactNode } from 'react'
import { NavLink } from 'react-router'
import { ink, paper, plum } from '../theme'

const places = [
  ['/site', 'On the site'],
  ['/site/style', 'Style kit'],
  ['/site/library', 'Library'],
  ['/site/codes', 'Codes'],
] as const

/** The places of a site, and the one that is open. */
export function SitePlace({ wide, children }: { wide?: boolean; children: ReactNode }) {
  return (
    <Box
      component="main"
      sx={{ p: '22px 26px 40px', maxWidth: wide ? 1280 : 860, width: '100%', mx: 'auto', display: 'grid', gap: '18px', alignContent: 'start' }}
    >
      <Box sx={{ display: 'flex', alignItems: 'flex-end', gap: '30px', borderBottom: `1px solid ${paper.line}` }}>
        <Typography variant="h1" sx={{ pb: '8px' }}>
          Site
        </Typography>
        <Box component="nav" aria-label="Places of the site" sx={{ display: 'flex', gap: '22px' }}>
          {places.map(([to, name]) => (
            <Box
              key={to}
              component={NavLink}
              to={to}
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
      {children}
    </Box>
  )
}
