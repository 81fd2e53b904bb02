import Box from '@mui/material/Box'
import { type ComponentType, lazy, useEffect, useState } from 'react'
import { LoadError } from './Loaded'

type Load<P> = () => Promise<ComponentType<P>>

/** A part whose script is loaded when it is first drawn. */
export const later = <P extends object>(load: Load<P>) => lazy(async () => ({ default: await loaded(load) }))

/** What a script gives, a part or a whole screen; where it cannot be loaded, what says so in its place, and asks again. */
export const loaded = <P extends object>(load: Load<P>, screen = false): Promise<ComponentType<P>> => load().catch(() => standIn(load, screen))

function standIn<P extends object>(load: Load<P>, screen: boolean) {
  let got: ComponentType<P> | undefined
  return function StandIn(props: P) {
    const [Loaded, setLoaded] = useState(() => got)
    useEffect(() => {
      if (got) return
      const again = () => load().then(c => setLoaded(() => (got = c)), ignored)
      again()
      addEventListener('online', again)
      return () => removeEventListener('online', again)
    }, [])
    if (Loaded) return <Loaded {...props} />
    const retry = async () => {
      try {
        got = await load()
        setLoaded(() => got)
      } catch {
        // Where the server answers, it has another version than this window, which has to come anew. Drafts are kept.
        const there = await fetch('/readyz').then(r => r.ok, ignored)
        if (there) location.reload()
      }
    }
    const close = 'onClose' in props ? { name: 'Close', run: props.onClose as () => void } : undefined
    const says = (
      <LoadError
        what={screen ? 'this screen' : 'this part'}
        error={new Error('The connection may be gone. What you changed is kept in this browser.')}
        retry={retry}
        way={close}
      />
    )
    return screen ? (
      <Box component="main" sx={{ p: '18px 24px' }}>
        {says}
      </Box>
    ) : (
      says
    )
  }
}

const ignored = () => {}
