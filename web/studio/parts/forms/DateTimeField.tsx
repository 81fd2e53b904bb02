import Skeleton from '@mui/material/Skeleton'
import { type ComponentProps, Suspense } from 'react'
import { later } from '../look/later'

// Few screens ask for a date at once: the pickers load when one does.
const Pickers = {
  DateTime: later(async () => (await import('./datePickers')).DateTimeField),
  Date: later(async () => (await import('./datePickers')).DateField),
}

/** A day and a time on a wall clock, which it names. */
export const DateTimeField = (props: ComponentProps<typeof Pickers.DateTime>) => (
  <Suspense fallback={<Skeleton variant="rounded" width={260} height={40} />}>
    <Pickers.DateTime {...props} />
  </Suspense>
)

/** A day on the site's calendar: 2026-12-24, or empty. */
export const DateField = (props: ComponentProps<typeof Pickers.Date>) => (
  <Suspense fallback={<Skeleton variant="rounded" width={165} height={40} />}>
    <Pickers.Date {...props} />
  </Suspense>
)
