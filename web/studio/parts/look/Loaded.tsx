import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Skeleton from '@mui/material/Skeleton'
import type { ReactNode } from 'react'
import { Trouble } from '../../server/api'
import { apricot, brick } from './theme'

interface Query<T> {
  data: T | undefined
  error: Error | null
  isError: boolean
  refetch(): unknown
}

interface Props<T> {
  query: Query<T>
  /** What could not be loaded, as a sentence says it: “the pictures”. */
  what: string
  /** Stands where the content will be, while it loads. */
  placeholder?: ReactNode
  /** A way on where it cannot be loaded at all. */
  way?: Way
  children(data: T): ReactNode
}

interface Way {
  name: string
  run(): void
}

/** What a query gives: a placeholder until it is there, and an error with a retry where it failed. What was loaded before stays, under a line that says it is old. */
export function Loaded<T>({ query, what, placeholder = <Skeleton variant="rounded" height={180} />, way, children }: Props<T>) {
  if (query.data === undefined)
    return query.isError ? <LoadError what={what} error={query.error} retry={query.refetch} way={way} /> : <Box aria-busy>{placeholder}</Box>
  return (
    <>
      {query.isError && <LoadError what={what} error={query.error} retry={query.refetch} old />}
      {children(query.data)}
    </>
  )
}

interface Failed {
  what: string
  error: Error | null
  retry(): unknown
  old?: boolean
  way?: Way
}

/** What went wrong, and in what, where the server says. */
function saidOf(error: Error | null) {
  if (!(error instanceof Trouble) || !error.faults.length) return error?.message
  return error.faults.map(f => `“${f.at}” ${f.message}.`).join(' ')
}

export function LoadError({ what, error, retry, old, way }: Failed) {
  return (
    <Box
      role="alert"
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 1.5,
        flexWrap: 'wrap',
        p: '10px 14px',
        my: '6px',
        borderRadius: '8px',
        background: old ? apricot.wash : brick.wash,
        color: old ? apricot.ink : '#8a3122',
      }}
    >
      <Box sx={{ flex: 1, minWidth: 220 }}>
        <b>{old ? `Could not refresh ${what}.` : `Could not load ${what}.`}</b> {saidOf(error)}
      </Box>
      {way && (
        <Button size="small" variant="outlined" onClick={way.run}>
          {way.name}
        </Button>
      )}
      <Button size="small" variant="outlined" onClick={() => retry()}>
        Try again
      </Button>
    </Box>
  )
}
