import '@fontsource-variable/bricolage-grotesque'
import '@fontsource-variable/instrument-sans'
import createCache from '@emotion/cache'
import { CacheProvider } from '@emotion/react'
import CssBaseline from '@mui/material/CssBaseline'
import { ThemeProvider } from '@mui/material/styles'
import { QueryClientProvider } from '@tanstack/react-query'
import type { ComponentType } from 'react'
import { createRoot } from 'react-dom/client'
import { createBrowserRouter, Navigate, RouterProvider } from 'react-router'
import { Broken } from './frame/Broken'
import { Loading } from './parts/look/Loading'
import { loaded } from './parts/look/later'
import { theme } from './parts/look/theme'
import { client } from './server/queries'

const nonce = document.querySelector<HTMLMetaElement>('meta[property=csp-nonce]')?.nonce ?? ''
const cache = createCache({ key: 'g', nonce })

/** A screen whose script is loaded when it is first opened. */
const screen =
  <M extends Record<K, ComponentType>, K extends string>(load: () => Promise<M>, name: K) =>
  async () => ({ Component: await loaded(async () => (await load())[name], true) })

const site = () => import('./site')
const frame = () => import('./frame/Layout')
const home = screen(frame, 'Home')

const router = createBrowserRouter([
  {
    path: '/',
    lazy: screen(frame, 'Layout'),
    ErrorBoundary: Broken,
    HydrateFallback: Loading,
    children: [
      { index: true, lazy: home },
      {
        path: 'sites/:site',
        // What breaks on a screen leaves the places around it.
        ErrorBoundary: Broken,
        children: [
          { index: true, element: <Navigate to="board" replace /> },
          { path: 'board', lazy: screen(() => import('./board/Board'), 'Board') },
          { path: 'priority', lazy: screen(() => import('./board/Priority'), 'Priority') },
          { path: 'people', lazy: screen(() => import('./people/People'), 'People') },
          { path: 'results', lazy: screen(() => import('./results/site/Results'), 'Results') },
          { path: 'new', lazy: screen(() => import('./new/NewPiece'), 'NewPiece') },
          { path: 'settings', lazy: screen(site, 'Site') },
          { path: 'settings/style', lazy: screen(site, 'Style') },
          { path: 'settings/library', lazy: screen(site, 'Library') },
          { path: 'settings/codes', lazy: screen(site, 'Codes') },
          {
            path: 'pieces/:piece',
            lazy: screen(() => import('./frame/PieceLayout'), 'PieceLayout'),
            children: [
              { index: true, element: <Navigate to="compose" replace /> },
              { path: 'compose', lazy: screen(() => import('./compose/Compose'), 'Compose') },
              { path: 'reach', lazy: screen(() => import('./reach/Reach'), 'Reach') },
              { path: 'results', lazy: screen(() => import('./results/piece/PieceResults'), 'PieceResults') },
              { path: 'split', element: <Navigate to="../results" replace /> },
              { path: 'hand-off', lazy: screen(() => import('./people/HandOff'), 'HandOff') },
              { path: 'launch', lazy: screen(() => import('./launch/Launch'), 'Launch') },
            ],
          },
          { path: '*', lazy: home },
        ],
      },
      // Addresses from before they named the site, and those that lead nowhere.
      { path: '*', lazy: home },
    ],
  },
])

// A file dropped where nothing takes it would be opened in place of the studio.
for (const name of ['dragover', 'drop'] as const)
  addEventListener(name, e => {
    if (e.dataTransfer?.types.includes('Files')) e.preventDefault()
  })

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
