import { whereTo } from '../frame/whereTo'
import { api } from '../server/api'

// Signing in, by the form of sign-in.html. It does without the studio, which is
// loaded once somebody has signed in.

const form = document.querySelector('form')!
const button = form.querySelector('button')!
const wrong = form.querySelector('[role=alert]')!
const said = button.textContent

form.addEventListener('submit', async e => {
  e.preventDefault()
  const given = new FormData(form)
  const typed = (name: string) => String(given.get(name) ?? '')
  button.disabled = true
  button.textContent = 'One moment…'
  wrong.textContent = ''
  try {
    await api('POST /session', {}, { body: { email: typed('email'), password: typed('password') } })
    location.replace(whereTo(location))
  } catch (e) {
    wrong.textContent = (e as Error).message
    button.disabled = false
    button.textContent = said
  }
})

if (document.activeElement === document.body) form.querySelector('input')!.focus()
