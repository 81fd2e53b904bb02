import '@fontsource-variable/bricolage-grotesque'
import '@fontsource-variable/instrument-sans'
import createCache from '@emotion/cache'
import { CacheProvider } from '@emotion/react'
import CssBaseline from '@mui/material/CssBaseline'
import { ThemeProvider } from '@mui/material/styles'
import { QueryClientProvider } from '@tanstack/react-query'
import { setNonce } from 'react-colorful'
import { createRoot } from 'react-dom/client'
import { createBrowserRouter, Navigate, RouterProvider } from 'react-router'
import * as chat from '../page/chat'
import * as draw from '../page/draw'
import { install } from '../page/drawn'
import * as extras from '../page/extras'
import * as frames from '../page/frames'
import * as play from '../page/play'
import { Begin } from './begin/Begin'
import { Bench } from './bench/Bench'
import { Board } from './board/Board'
import { Order } from './board/Order'
import { Compose } from './compose/Compose'
import { HandOff } from './handoff/HandOff'
import { Launch } from './launch/Launch'
import { Broken } from './parts/Broken'
import { House } from './parts/House'
import { People } from './people/People'
import { client } from './queries'
import { Reach } from './reach/Reach'
import { SignIn } from './sign-in/SignIn'
import { Codes } from './site/Codes'
import { Library } from './site/Library'
import { Site } from './site/Site'
import { Style } from './site/Style'
import { Split } from './split/Split'
import { theme } from './theme'

const nonce = document.querySelector<HTMLMetaElement>('meta[property=csp-nonce]')?.nonce ?? ''
const cache = createCache({ key: 'g', nonce })
setNonce(nonce)

install('extras', extras)
install('play', play)
install('draw', draw)
install('chat', chat)
install('frames', frames)

const router = createBrowserRouter([
  { path: '/sign-in', Component: SignIn, ErrorBoundary: Broken },
  {
    path: '/',
    Component: House,
    ErrorBoundary: Broken,
    children: [
      { index: true, element: <Navigate to="/board" replace /> },
      { path: 'board', Component: Board },
      { path: 'order', Component: Order },
      { path: 'people', Component: People },
      { path: 'new', Component: Begin },
      { path: 'site', Component: Site },
      { path: 'site/style', Component: Style },
      { path: 'site/library', Component: Library },
      { path: 'site/codes', Component: Codes },
      {
        path: 'pieces/:piece',
        Component: Bench,
        children: [
          { index: true, element: <Navigate to="compose" replace /> },
          { path: 'compose', Component: Compose },
          { path: 'reach', Component: Reach },
          { path: 'split', Component: Split },
          { path: 'hand-off', Component: HandOff },
          { path: 'launch', Component: Launch },
        ],
      },
      { path: '*', element: <Navigate to="/board" replace /> },
    ],
  },
])

createRoot(document.getElementById('root')!).render(
  <CacheProvider value={cache}>
    <ThemeProvider theme={theme}>
      <CssBaseline />
      <QueryClientProvider client={client}>
        <RouterProvider router={router} />
      </QueryClientProvider>
    </ThemeProvider>
  </CacheProvider>,
)
