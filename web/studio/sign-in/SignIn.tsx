import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import FormControl from '@mui/material/FormControl'
import InputLabel from '@mui/material/InputLabel'
import OutlinedInput from '@mui/material/OutlinedInput'
import Typography from '@mui/material/Typography'
import { type FormEvent, useState } from 'react'
import { useLocation, useNavigate } from 'react-router'
import { api } from '../api'
import { Mark } from '../parts/Mark'
import { Sheet } from '../parts/Sheet'
import { client, signedIn } from '../queries'
import { brick, display, ink } from '../theme'

/** Where one signs in; index.html says the same before this is loaded. */
export function SignIn() {
  const go = useNavigate()
  const from = (useLocation().state as { from?: string } | null)?.from ?? '/board'
  const [wrong, setWrong] = useState('')
  const [busy, setBusy] = useState(false)
  const submit = async (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault()
    const given = new FormData(e.currentTarget)
    setBusy(true)
    setWrong('')
    try {
      client.setQueryData(
        ['me'],
        await api('POST /session', {}, { body: { email: String(given.get('email') ?? ''), password: String(given.get('password') ?? '') } }),
      )
      signedIn()
      go(from, { replace: true })
    } catch (e) {
      setWrong((e as Error).message)
    }
    setBusy(false)
  }
  return (
    <Box component="main" sx={{ minHeight: '100vh', display: 'grid', gridTemplateColumns: { xs: '1fr', md: '1fr 1fr' } }}>
      <Box sx={{ background: ink[1], color: '#f2eaf2', p: '9vh 7vw', display: 'flex', flexDirection: 'column', gap: 3 }}>
        <Box sx={{ display: 'flex', alignItems: 'center', gap: '12px', font: `680 24px ${display}`, letterSpacing: '-.02em' }}>
          <Mark size={32} /> Gobbet
        </Box>
        <Typography variant="h1" component="p" sx={{ fontSize: 44, maxWidth: 460, mt: 'auto' }}>
          The right small thing, to the right person, at the right moment.
        </Typography>
        <Typography sx={{ color: '#c9bcd0', maxWidth: 420, fontSize: 16, mb: 'auto' }}>
          Design what appears on your site, say when it shows and to whom, and see which version works.
        </Typography>
      </Box>
      <Box sx={{ display: 'grid', placeItems: 'center', p: 3 }}>
        <Sheet bitten component="form" onSubmit={submit as never} sx={{ width: 'min(380px, 100%)', p: '28px 30px 32px', display: 'grid', gap: 2 }}>
          <Typography variant="h2" component="h1">
            Sign in
          </Typography>
          <Line name="email" label="Email" autoComplete="username" most={254} autoFocus />
          <Line name="password" label="Password" autoComplete="current-password" most={1000} />
          {wrong && (
            <Typography role="alert" sx={{ color: brick.main, fontWeight: 600 }}>
              {wrong}
            </Typography>
          )}
          <Button type="submit" variant="contained" disabled={busy}>
            {busy ? 'One moment…' : 'Sign in'}
          </Button>
        </Sheet>
      </Box>
    </Box>
  )
}

/** A line to fill in. A TextField would bring menus and their popovers to a screen that has none. */
const Line = ({
  name,
  label,
  autoComplete,
  most,
  autoFocus,
}: {
  name: 'email' | 'password'
  label: string
  autoComplete: string
  most: number
  autoFocus?: boolean
}) => (
  <FormControl size="small" fullWidth>
    <InputLabel htmlFor={name}>{label}</InputLabel>
    <OutlinedInput
      id={name}
      name={name}
      type={name}
      label={label}
      autoComplete={autoComplete}
      autoFocus={autoFocus}
      inputProps={{ maxLength: most, required: true }}
    />
  </FormControl>
)
