import { TextIn } from '../parts/forms/formFields'
import { api } from '../server/api'
import { useSite } from '../server/queries'
import { Setting } from './Setting'
import { linesOf, useSiteForm } from './useSiteForm'

/** What the site is called, where its pages are, and which clock it goes by. */
export function NameAndDomains() {
  const site = useSite()
  const { saved, standing, form } = useSiteForm('site', {
    of: s => ({ values: { name: s.name, origins: s.origins.join('\n'), zone: s.zone }, version: s.version }),
    save: (id, version, { name, origins, zone }) =>
      api('PUT /sites/:site', { site: id }, { body: { version: Number(version), name, zone, origins: linesOf(origins) } }),
  })
  const { control } = form
  const hosts = site.origins.map(o => o.replace(/^https?:\/\//, ''))
  return (
    <Setting
      id="domains"
      name="Name and domains"
      state={hosts.length ? `${site.name}: ${hosts.join(', ')}. Time in ${site.zone}.` : `${site.name} has no domain yet, so nothing shows anywhere.`}
      well={hosts.length > 0}
      form={{ standing, saved }}
    >
      <TextIn control={control} name="name" label="Name" max={120} />
      <TextIn
        control={control}
        name="origins"
        label="Domains, one per line"
        multiline
        minRows={3}
        help="Only pages of these domains show pieces, even with the script installed."
      />
      <TextIn
        control={control}
        name="zone"
        label="Time zone"
        help="Days in reports and times in rules use this zone."
        slotProps={{ htmlInput: { maxLength: 60, list: 'zones' } }}
      />
      <datalist id="zones">
        {Intl.supportedValuesOf('timeZone').map(z => (
          <option key={z} value={z} />
        ))}
      </datalist>
    </Setting>
  )
}
