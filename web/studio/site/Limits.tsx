import type { Settings } from '../../kinds/settings'
import { ChoiceIn } from '../parts/forms/formFields'
import { spansFor } from '../rule/spans'
import { outdated, useSite } from '../server/queries'
import { Setting } from './Setting'
import { useSettingsForm } from './useSiteForm'

const overlays = [
  ['0', 'No limit'],
  ['1', '1'],
  ['2', '2'],
  ['3', '3'],
  ['5', '5'],
] as const
const quiets = spansFor([['', 'None']], 'PT10S')
const sensitivity = [
  ['calm', 'Low: quick and clear moves only'],
  ['normal', 'Normal: quick moves'],
  ['eager', 'High: slow moves too'],
] as const

/** How often all pieces together may show. */
export function Limits() {
  const { settings } = useSite()
  const { saved, standing, form } = useSettingsForm('limits', {
    from: s => ({ limits: { overlays: s.limits.overlays ?? 0, quiet: s.limits.quiet ?? '' }, exit: s.exit }),
    to: ({ limits: { overlays, quiet }, exit }): Partial<Settings> => ({ limits: { ...(overlays && { overlays }), ...(quiet && { quiet }) }, exit }),
    done: () => outdated('rehearsal'),
  })
  const { control } = form
  const { overlays: most, quiet } = settings.limits
  const says = [
    most ? `at most ${most} over the page per visit` : '',
    quiet ? `${quiets.find(([key]) => key === quiet)?.[1] ?? quiet} between two` : '',
  ].filter(Boolean)
  return (
    <Setting
      id="limits"
      name="Limits over all pieces"
      state={says.length ? `${says.join(', ').replace(/^./, c => c.toUpperCase())}.` : 'None: only each piece’s own frequency counts.'}
      form={{ standing, saved }}
    >
      <ChoiceIn
        control={control}
        name="limits.overlays"
        number
        label="Pieces over the page, per visit"
        help="Popups, side sheets and full-screen pieces."
        options={overlays}
      />
      <ChoiceIn
        control={control}
        name="limits.quiet"
        label="Minimum time between pieces"
        help="No piece interrupts a visitor sooner after another."
        options={quiets}
      />
      <ChoiceIn
        control={control}
        name="exit"
        label="Exit-intent sensitivity"
        help="Which mouse movements towards the edge count as leaving."
        options={sensitivity}
      />
    </Setting>
  )
}
