import Box from '@mui/material/Box'
import ButtonBase from '@mui/material/ButtonBase'
import Menu from '@mui/material/Menu'
import MenuItem from '@mui/material/MenuItem'
import Typography from '@mui/material/Typography'
import { useEffect, useState } from 'react'
import { Link, Navigate, NavLink, Outlet, useLocation, useNavigation, useParams } from 'react-router'
import { useStore } from 'zustand'
import { openShortcuts, typing, useShortcuts } from '../parts/keys/actions'
import { toContent, toNextRegion } from '../parts/keys/regions'
import { turnedOff } from '../parts/keys/singleKeys'
import { Confirmation } from '../parts/look/Confirm'
import { LoadError } from '../parts/look/Loaded'
import { Loading } from '../parts/look/Loading'
import { Mark } from '../parts/look/Mark'
import { apricot, display, ink } from '../parts/look/theme'
import { Toaster } from '../parts/look/toast'
import { showClockOf } from '../parts/words/time'
import { api, away, Trouble } from '../server/api'
import { client, outdated, useAddress, useMe } from '../server/queries'
import { Shortcuts } from './Shortcuts'
import { signInFor } from './whereTo'

/** The dark top line, and the screen below it. Screens of a site that is not the account's are not drawn. */
export function Layout() {
  const me = useMe()
  const { site } = useParams()
  const coming = useNavigation().state === 'loading'
  if (me.error instanceof Trouble && me.error.status === 401) return <ToSignIn />
  const open = me.data?.sites.find(s => String(s.id) === site)
  if (open) showClockOf(open.zone)
  const known = !site || !!open
  return (
    <Box sx={{ minHeight: '100vh', display: 'flex', flexDirection: 'column' }}>
      <SkipLink />
      <Top />
      <AwayLine />
      <Toaster />
      <Confirmation />
      <ShortcutList />
      <Box aria-hidden sx={{ height: 2, mt: '-2px', background: coming ? apricot.main : 'transparent' }} />
      {me.data ? (
        known ? (
          <Outlet />
        ) : (
          <Message title="This site is not here">It was removed, or your account has no access to it.</Message>
        )
      ) : me.isError ? (
        <Box sx={{ maxWidth: 620, m: '12vh auto', px: 3 }}>
          <LoadError what="your account" error={me.error} retry={me.refetch} />
        </Box>
      ) : (
        <Loading />
      )}
    </Box>
  )
}

/** To the sign-in, which is a page of its own, and back here afterwards. */
function ToSignIn() {
  const { pathname, search, hash } = useLocation()
  useEffect(() => location.replace(signInFor(pathname + search + hash)), [pathname, search, hash])
  return <Loading />
}

/** The first thing that the Tab key comes to: past the lines that every screen has. */
const SkipLink = () => (
  <Box
    component="a"
    href="#content"
    onClick={e => {
      e.preventDefault()
      toContent()
    }}
    sx={{
      position: 'absolute',
      left: 12,
      top: -60,
      zIndex: 'tooltip',
      p: '8px 14px',
      borderRadius: '6px',
      background: apricot.bright,
      color: ink[1],
      fontWeight: 600,
      '&:focus': { top: 8 },
    }}
  >
    Skip to the content
  </Box>
)

/** Leads to the board, or to a place of the first site where the address names no site. */
export function Home() {
  const me = useMe().data
  const here = useLocation()
  const { site } = useParams()
  if (!me) return null
  if (!me.sites.length) return <Message title="No site yet">Your account has no site. Ask whoever runs Gobbet for access to one.</Message>
  const place = site ? '/board' : (moved(here.pathname) ?? '/board')
  return <Navigate to={`/sites/${site ?? me.sites[0].id}${place}${site ? '' : here.search}`} replace />
}

/** The place within a site of an address without one. */
function moved(path: string): string | undefined {
  const renamed: Record<string, string> = {
    '/order': '/priority',
    '/site': '/settings',
    '/site/style': '/settings/style',
    '/site/library': '/settings/library',
    '/site/codes': '/settings/codes',
  }
  return renamed[path] ?? (/^\/(board|people|new|pieces\/.+)$/.test(path) ? path : undefined)
}

const Message = ({ title, children }: { title: string; children: React.ReactNode }) => (
  <Box component="main" sx={{ maxWidth: 460, m: '14vh auto', px: 3 }}>
    <Typography variant="h1">{title}</Typography>
    <Typography sx={{ mt: 1 }}>
      {children} <Link to="/">Go to your sites</Link>
    </Typography>
  </Box>
)

const places = [
  ['/board', 'Board', /^\/sites\/\d+\/(pieces|priority|new|board)/],
  ['/people', 'People', /^\/sites\/\d+\/people/],
  ['/results', 'Results', /^\/sites\/\d+\/results/],
  ['/settings', 'Site', /^\/sites\/\d+\/settings/],
] as const

function Top() {
  const me = useMe().data
  const here = useLocation().pathname
  const at = useAddress()
  const { site } = useParams()
  const [menu, setMenu] = useState<HTMLElement | null>(null)
  const signOut = async () => {
    await api('DELETE /session', {})
    client.clear()
    location.assign('/sign-in')
  }
  return (
    <Box
      component="header"
      sx={{
        minHeight: 52,
        flex: 'none',
        display: 'flex',
        flexWrap: 'wrap',
        alignItems: 'center',
        gap: { xs: '2px 10px', sm: '2px 22px' },
        px: { xs: '12px', sm: '22px' },
        py: '4px',
        background: ink[1],
        color: '#f2eaf2',
      }}
    >
      <Box
        component={Link}
        to={site ? at('/board') : '/'}
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
      <SiteSwitch />
      {site && (
        <Box
          component="nav"
          aria-label="Site"
          sx={{ display: 'flex', flexWrap: 'wrap', gap: '0 22px', order: { xs: 1, sm: 0 }, flexBasis: { xs: '100%', sm: 'auto' } }}
        >
          {places.map(([to, name, within]) => (
            <Box
              key={to}
              component={NavLink}
              to={at(to)}
              sx={{
                color: '#c9bcd0',
                fontWeight: 550,
                textDecoration: 'none',
                p: '4px 0 7px',
                '&:hover': { color: '#fff' },
                '&.within': { color: '#fff', pb: '4px', borderBottom: `3px solid ${apricot.bright}` },
              }}
              className={within.test(here) ? 'within' : undefined}
            >
              {name}
            </Box>
          ))}
        </Box>
      )}
      {me && (
        <>
          <ButtonBase
            onClick={e => setMenu(e.currentTarget)}
            aria-label={`${me.name}, account`}
            aria-haspopup="menu"
            sx={{ ml: 'auto', width: 32, height: 32, borderRadius: '6px', background: '#382b45', fontWeight: 600, fontSize: 13 }}
          >
            {me.name.split(' ').map(w => w[0])}
          </ButtonBase>
          <Menu open={!!menu} anchorEl={menu} onClose={() => setMenu(null)}>
            <MenuItem disabled>{me.email}</MenuItem>
            <MenuItem
              onClick={() => {
                setMenu(null)
                openShortcuts()
              }}
            >
              Keyboard shortcuts
            </MenuItem>
            <MenuItem onClick={signOut}>Sign out</MenuItem>
          </Menu>
        </>
      )}
    </Box>
  )
}

/** The name of the site, and the others to go to. */
function SiteSwitch() {
  const sites = useMe().data?.sites ?? []
  const { site } = useParams()
  const [menu, setMenu] = useState<HTMLElement | null>(null)
  const here = sites.find(s => String(s.id) === site)
  const look = {
    border: '1px solid #55476a',
    borderRadius: '6px',
    padding: '4px 10px',
    fontWeight: 550,
    fontSize: 14,
    maxWidth: 240,
    overflow: 'hidden',
    textOverflow: 'ellipsis',
    whiteSpace: 'nowrap',
  }
  if (sites.length < 2) return here ? <Box sx={look}>{here.name}</Box> : null
  return (
    <>
      <ButtonBase
        onClick={e => setMenu(e.currentTarget)}
        aria-haspopup="menu"
        aria-label={`Site: ${here?.name ?? 'none'}, change`}
        sx={{ ...look, display: 'block' }}
      >
        {here?.name ?? 'Choose a site'} ▾
      </ButtonBase>
      <Menu open={!!menu} anchorEl={menu} onClose={() => setMenu(null)} onClick={() => setMenu(null)} slotProps={{ paper: { sx: { maxHeight: 420 } } }}>
        {sites.map(s => (
          <MenuItem key={s.id} component={Link} to={`/sites/${s.id}/board`} selected={s === here}>
            {s.name}
          </MenuItem>
        ))}
      </Menu>
    </>
  )
}

/** Opens the list of shortcuts at ?. */
function ShortcutList() {
  const open = useShortcuts(s => s.open)
  useEffect(() => {
    const ask = (e: KeyboardEvent) => {
      if (e.key === '?' && !typing(e) && !e.ctrlKey && !e.metaKey && !turnedOff(e)) openShortcuts()
      if (e.key === 'F6' && !e.ctrlKey && !e.metaKey && !e.altKey) {
        e.preventDefault()
        toNextRegion(e.shiftKey ? -1 : 1)
      }
    }
    document.addEventListener('keydown', ask)
    return () => document.removeEventListener('keydown', ask)
  }, [])
  return open ? <Shortcuts onClose={() => useShortcuts.setState({ open: false })} /> : null
}

/** Says that the server or its database cannot be reached, and watches for it to come back. */
function AwayLine() {
  const why = useStore(away, s => s.why)
  useEffect(() => {
    if (!why) return
    const timer = setInterval(async () => {
      const ready = await fetch('/readyz').catch(() => null)
      if (!ready?.ok) return
      away.setState({ why: '' })
      outdated()
    }, 1500)
    return () => clearInterval(timer)
  }, [why])
  if (!why) return null
  return (
    <Box role="alert" sx={{ background: apricot.wash, color: apricot.ink, px: '22px', py: '8px', fontWeight: 600, borderBottom: `1px solid ${apricot.main}` }}>
      {why} Changes to pieces are kept in this browser and sent when it is back. Visitors’ pages are not affected.
    </Box>
  )
}
