import Box from '@mui/material/Box'
import Dialog from '@mui/material/Dialog'
import { type ComponentType, lazy, useEffect, useState } from 'react'
import { LoadError } from './Loaded'

/** Where the script of a part or a whole screen comes from, and what it gave. */
interface Source<P> {
  load(): Promise<ComponentType<P>>
  screen: boolean
  got?: ComponentType<P>
}

/** A part whose script is loaded when it is first drawn. */
export const later = <P extends object>(load: Source<P>['load']) => lazy(async () => ({ default: await loaded(load) }))

/** What a script gives; where it cannot be loaded, what says so in its place, and asks again. */
export async function loaded<P extends object>(load: Source<P>['load'], screen = false): Promise<ComponentType<P>> {
  const source: Source<P> = { load, screen }
  return load().catch(() => (props: P) => <StandIn source={source} props={props} />)
}

function StandIn<P extends object>({ source, props }: { source: Source<P>; props: P }) {
  const [Loaded, setLoaded] = useState(() => source.got)
  const take = async () => {
    source.got = await source.load()
    setLoaded(() => source.got)
  }
  useEffect(() => {
    if (source.got) return
    const again = () => void take().catch(ignored)
    again()
    addEventListener('online', again)
    return () => removeEventListener('online', again)
  }, [source])
  if (Loaded) return <Loaded {...props} />
  const retry = () =>
    take().catch(async () => {
      // Where the server answers, it has another version than this window, which has to come anew. Drafts are kept.
      const there = await fetch('/readyz').then(r => r.ok, ignored)
      if (there) location.reload()
    })
  const close = 'onClose' in props ? (props.onClose as () => void) : undefined
  const says = (
    <LoadError
      what={source.screen ? 'this screen' : 'this part'}
      error={new Error('The connection may be gone. What you changed is kept in this browser.')}
      retry={retry}
      way={close && { name: 'Close', run: close }}
    />
  )
  if (source.screen)
    return (
      <Box component="main" sx={{ p: '18px 24px' }}>
        {says}
      </Box>
    )
  // What can be closed would have stood over the screen.
  return close ? (
    <Dialog open onClose={close}>
      <Box sx={{ p: '10px 16px' }}>{says}</Box>
    </Dialog>
  ) : (
    says
  )
}

const ignored = () => {}
