import { NumberIn, TextIn } from '../parts/forms/formFields'
import { counted } from '../parts/words/say'
import { outdated, useSite } from '../server/queries'
import { Setting } from './Setting'
import { useSettingsForm } from './useSiteForm'

/** What is recorded of visits, and for how long. */
export function Recording() {
  const { settings } = useSite()
  const { saved, standing, form } = useSettingsForm('recording', {
    from: s => ({ record: s.record, keep_months: s.keep_months, data_layer: s.data_layer }),
    to: values => values,
    done: () => outdated('rehearsal'),
  })
  const { control } = form
  return (
    <Setting
      id="recording"
      name="Recording"
      state={
        settings.record
          ? `${settings.record === 100 ? 'All visitors’' : `${settings.record} % of visitors’`} page views for rehearsals; events for ${counted(settings.keep_months, 'month')}.`
          : 'Page views are not recorded, so reaches cannot be rehearsed.'
      }
      well={settings.record ? undefined : false}
      form={{ standing, saved }}
    >
      <NumberIn
        control={control}
        name="record"
        label="Visitors recorded, in %"
        min={0}
        max={100}
        help="Their page views are kept for rehearsals for 90 days, without personal data."
      />
      <NumberIn control={control} name="keep_months" label="Keep raw events, in months" min={1} max={120} help="Totals stay for good." />
      <TextIn
        control={control}
        name="data_layer"
        label="Data layer"
        placeholder="dataLayer"
        help="An array of your pages that every step is pushed to."
        slotProps={{ inputLabel: { shrink: true } }}
      />
    </Setting>
  )
}
