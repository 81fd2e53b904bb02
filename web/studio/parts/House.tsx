import Box from '@mui/material/Box'
import ButtonBase from '@mui/material/ButtonBase'
import CircularProgress from '@mui/material/CircularProgress'
import Menu from '@mui/material/Menu'
import MenuItem from '@mui/material/MenuItem'
import { useEffect, useState } from 'react'
import { Link, Navigate, NavLink, Outlet, useLocation } from 'react-router'
import { api, Trouble, useAway } from '../api'
import { client, useMe } from '../queries'
import { apricot, display, ink } from '../theme'
import { Mark } from './Mark'
import { Told } from './Told'

/** The dark top line, and the screen below it. */
export function House() {
  const me = useMe()
  const here = useLocation()
  if (me.error instanceof Trouble && me.error.status === 401) return <Navigate to="/sign-in" replace state={{ from: here.pathname }} />
  return (
    <Box sx={{ minHeight: '100vh', display: 'flex', flexDirection: 'column' }}>
      <Top />
      <AwayLine />
      <Told />
      {me.data ? (
        <Outlet />
      ) : (
        <Box sx={{ flex: 1, display: 'grid', placeItems: 'center' }}>
          <CircularProgress aria-label="Loading" />
        </Box>
      )}
    </Box>
  )
}

const places = [
  ['/board', 'Board'],
  ['/people', 'People'],
  ['/site', 'Site'],
]

function Top() {
  const me = useMe().data
  const here = useLocation().pathname
  const [menu, setMenu] = useState<HTMLElement | null>(null)
  const signOut = async () => {
    await api('DELETE', '/session')
    client.clear()
    location.assign('/sign-in')
  }
  return (
    <Box
      component="header"
      sx={{ height: 52, flex: 'none', display: 'flex', alignItems: 'center', gap: '22px', px: '22px', background: ink[1], color: '#f2eaf2' }}
    >
      <Box
        component={Link}
        to="/board"
        aria-label="Gobbet, to the board"
        sx={{
          display: 'flex',
          alignItems: 'center',
          gap: '10px',
          color: 'inherit',
          textDecoration: 'none',
          font: `680 19px ${display}`,
          letterSpacing: '-.02em',
        }}
      >
        <Mark /> Gobbet
      </Box>
      {me?.sites[0] && <Box sx={{ border: '1px solid #55476a', borderRadius: '6px', padding: '4px 10px', fontWeight: 550 }}>{me.sites[0].name}</Box>}
      <Box component="nav" aria-label="Site" sx={{ display: 'flex', gap: '22px' }}>
        {places.map(([to, name]) => (
          <Box
            key={to}
            component={NavLink}
            to={to}
            sx={{
              color: '#c9bcd0',
              fontWeight: 550,
              textDecoration: 'none',
              py: '4px',
              borderBottom: '3px solid transparent',
              '&:hover': { color: '#fff' },
              '&.active, &.within': { color: '#fff', borderColor: apricot.bright },
            }}
            className={to === '/board' && /^\/(pieces|order|new)/.test(here) ? 'within' : undefined}
          >
            {name}
          </Box>
        ))}
      </Box>
      {me && (
        <>
          <ButtonBase
            onClick={e => setMenu(e.currentTarget)}
            aria-label={`${me.name}, account`}
            sx={{ ml: 'auto', width: 32, height: 32, borderRadius: '6px', background: '#382b45', fontWeight: 600, fontSize: 13 }}
          >
            {me.name.split(' ').map(w => w[0])}
          </ButtonBase>
          <Menu open={!!menu} anchorEl={menu} onClose={() => setMenu(null)}>
            <MenuItem disabled>{me.email}</MenuItem>
            <MenuItem onClick={signOut}>Sign out</MenuItem>
          </Menu>
        </>
      )}
    </Box>
  )
}

/** Says that the server or its database is away, and looks for it to come back. */
function AwayLine() {
  const away = useAway(s => s.away)
  useEffect(() => {
    if (!away) return
    const timer = setInterval(async () => {
      const ready = await fetch('/readyz').catch(() => null)
      if (!ready?.ok) return
      useAway.setState({ away: '' })
      client.invalidateQueries()
    }, 1500)
    return () => clearInterval(timer)
  }, [away])
  if (!away) return null
  return (
    <Box role="alert" sx={{ background: apricot.wash, color: apricot.ink, px: '22px', py: '8px', fontWeight: 600, borderBottom: `1px solid ${apricot.main}` }}>
      {away} What you do here is kept in this browser and sent when it is back. Visitors' pages go on.
    </Box>
  )
}
