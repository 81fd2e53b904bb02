import { useParams } from 'react-router'
import { useMe } from '../../server/queries'

/** The title of the page: what it shows, then the site. */
export function Title({ of }: { of: string }) {
  const id = Number(useParams().site)
  const site = useMe().data?.sites.find(s => s.id === id)?.name
  return <title>{[of, site, 'Gobbet'].filter(Boolean).join(' · ')}</title>
}
