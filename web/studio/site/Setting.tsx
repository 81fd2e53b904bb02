import ExpandMore from '@mui/icons-material/ExpandMore'
import Box from '@mui/material/Box'
import ButtonBase from '@mui/material/ButtonBase'
import Typography from '@mui/material/Typography'
import { type FormEvent, type ReactNode, useEffect, useRef, useState } from 'react'
import { useLocation } from 'react-router'
import { SaveLine } from '../parts/forms/SaveLine'
import type { FormStanding } from '../parts/forms/savedForm'
import { Sheet } from '../parts/look/Sheet'
import { apricot, ink, moss } from '../parts/look/theme'

interface Props {
  /** What an address names it by, after #. */
  id: string
  name: string
  /** How it is set, in a line. */
  state: ReactNode
  /** Whether that is as it should be; left out: nothing says. */
  well?: boolean
  /** Whether it is open until somebody opens or closes it. */
  opened?: boolean
  form?: { standing: FormStanding; saved: { discard(): void; keepMine(): void; submit(): Promise<boolean> } }
  children: ReactNode
}

/** One thing that is set for the site: its name and state, and its form once it is opened. */
export function Setting({ id, name, state, well, opened: opens, form, children }: Props) {
  const { hash } = useLocation()
  const [opened, setOpened] = useState<boolean | null>(null)
  const sheet = useRef<HTMLElement>(null)
  const changed = !!form?.standing.changed
  const named = hash === `#${id}`
  const open = opened ?? (opens || named || changed)
  // Opened by what was typed before, it stays open once that is saved.
  useEffect(() => {
    if (changed) setOpened(o => o ?? true)
  }, [changed])
  useEffect(() => {
    if (named) sheet.current?.scrollIntoView({ block: 'start' })
  }, [named])
  const submit = (e: FormEvent) => {
    e.preventDefault()
    form?.saved.submit()
  }
  return (
    <Sheet ref={sheet} id={id} aria-label={name} sx={{ p: 0, scrollMarginTop: '12px' }}>
      <Typography variant="h2" sx={{ m: 0, fontSize: 17 }}>
        <ButtonBase
          aria-expanded={open}
          onClick={() => setOpened(!open)}
          sx={{
            width: '100%',
            p: '13px 18px',
            display: 'flex',
            alignItems: 'flex-start',
            gap: '12px',
            textAlign: 'start',
            borderRadius: '10px',
            font: 'inherit',
          }}
        >
          <Box component="span" sx={{ flex: 1, minWidth: 0 }}>
            {name}
            <Box
              component="span"
              sx={{
                display: 'block',
                mt: '2px',
                font: '400 14px/1.4 "Instrument Sans Variable", sans-serif',
                letterSpacing: 0,
                overflowWrap: 'anywhere',
                color: well === undefined ? ink[2] : well ? moss.ink : apricot.ink,
              }}
            >
              {well !== undefined && (well ? '✓ ' : '! ')}
              {state}
              {form?.standing.changed && (
                <Box component="span" sx={{ color: apricot.ink, fontWeight: 600 }}>
                  {' '}
                  · unsaved changes
                </Box>
              )}
            </Box>
          </Box>
          <ExpandMore aria-hidden sx={{ flex: 'none', mt: '1px', color: ink[2], transform: open ? 'rotate(180deg)' : 'none' }} />
        </ButtonBase>
      </Typography>
      {open &&
        (form ? (
          <Box component="form" noValidate onSubmit={submit} aria-label={name} sx={{ display: 'grid', gap: 2, p: '4px 18px 18px' }}>
            {children}
            <SaveLine standing={form.standing} saved={form.saved} />
          </Box>
        ) : (
          <Box sx={{ display: 'grid', gap: 1.5, p: '4px 18px 18px' }}>{children}</Box>
        ))}
    </Sheet>
  )
}
