import type { FieldValues } from 'react-hook-form'
import type { Part, Settings } from '../../kinds/settings'
import type { SiteInfo } from '../../kinds/studio'
import type { OnServer } from '../parts/forms/savedForm'
import { useSavedForm } from '../parts/forms/useSavedForm'
import { api, type Trouble } from '../server/api'
import { client, setSite, useSite } from '../server/queries'

interface SiteForm<T extends FieldValues> {
  /** What of a site it edits, and the version of that. */
  of(site: SiteInfo): OnServer<T>
  save(site: number, version: number | string, values: T): Promise<SiteInfo>
}

/** A form of something of the site, by a name. */
export function useSiteForm<T extends FieldValues>(name: string, { of, save }: SiteForm<T>) {
  const site = useSite()
  return useSavedForm<T>(`${name}:${site.id}`, of(site), {
    async send(version, values) {
      const now = await save(site.id, version, values)
      setSite(now)
      return of(now)
    },
    async fetch() {
      const me = await client.fetchQuery({ queryKey: ['me'], queryFn: () => api('GET /me', {}), staleTime: 0 })
      return of(me.sites.find(s => s.id === site.id)!)
    },
  })
}

/** A form of a part of the site's settings. Where its fields have other places than the settings, at says which field a fault's is. */
export function useSettingsForm<T extends FieldValues>(
  part: Part,
  { from, to, done, at }: { from(settings: Settings): T; to(values: T): Partial<Settings>; done?(site: number): void; at?(place: string): string },
) {
  return useSiteForm<T>(part, {
    of: site => ({ values: from(site.settings), version: site.settings_versions[part] }),
    async save(site, version, values) {
      const settings = { ...client.getQueryData<{ sites: SiteInfo[] }>(['me'])!.sites.find(s => s.id === site)!.settings, ...to(values) }
      const now = await api('PUT /sites/:site/settings/:part', { site, part }, { body: { version: String(version), settings } }).catch((e: Trouble) => {
        if (at) for (const f of e.faults) f.at = at(f.at)
        throw e
      })
      done?.(site)
      return now
    },
  })
}

/** The lines of a text that say something. */
export const linesOf = (text: string) =>
  text
    .split('\n')
    .map(l => l.trim())
    .filter(Boolean)
