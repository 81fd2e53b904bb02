import { type ComponentType, lazy, useEffect, useState } from 'react'
import { LoadError } from './Loaded'

type Load<P> = () => Promise<ComponentType<P>>

/** A part whose script is loaded when it is first drawn. */
export const later = <P extends object>(load: Load<P>) => lazy(async () => ({ default: await loaded(load, 'this part') }))

/** What a script gives; where it cannot be loaded, what says so in its place, and asks again. */
export const loaded = <P extends object>(load: Load<P>, what: string): Promise<ComponentType<P>> => load().catch(() => standIn(load, what))

function standIn<P extends object>(load: Load<P>, what: string) {
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
    return <LoadError what={what} error={new Error('The connection may be gone. Your changes are kept in this browser.')} retry={retry} way={close} />
  }
}

const ignored = () => {}
