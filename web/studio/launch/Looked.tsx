import Box from '@mui/material/Box'
import type { ReactNode } from 'react'
import { Link } from 'react-router'
import type { Contest, PieceInfo } from '../../kinds/studio'
import { apricot, ink, moss } from '../parts/look/theme'
import { count, counted } from '../parts/words/say'
import { useDraft } from '../piece/draft'
import { useDraftRehearsal } from '../piece/rehearsal'
import { useAddress, usePages, useSite } from '../server/queries'
import { addressesOf, elementsOf, lookedAt, type OnPage, pageOf } from './looked'

const mostPages = 6

/** What was looked at for this piece: in it, on the site's pages, and among the other pieces. */
export function Looked({ info, issues }: { info: PieceInfo; issues: boolean }) {
  const doc = useDraft(s => s.doc)!
  return (
    <Box component="ul" aria-label="What was looked at" sx={{ listStyle: 'none', m: 0, p: 0, fontSize: 14 }}>
      {!issues && lookedAt(doc).map(line => <Line key={line}>{line}</Line>)}
      <OnPages />
      <Among info={info} />
    </Box>
  )
}

/** Whether the pages have what the piece waits for, stands at and leads to. */
function OnPages() {
  const doc = useDraft(s => s.doc)!
  const { origins } = useSite()
  const elements = elementsOf(doc)
  const led = addressesOf(doc)
  const addresses = led.slice(0, mostPages)
  const page = pageOf(doc)
  const paths = origins.length ? [...new Set([...(elements.length ? [page] : []), ...addresses])] : []
  const pages = usePages(paths)
  const at = (path: string) => pages[paths.indexOf(path)]?.data
  const here = at(page)
  if (!paths.length) return null
  if (pages.some(p => p.data?.state === 'away'))
    return <Line bad>The site did not answer, so it could not be looked at whether its pages have what the piece needs.</Line>
  return (
    <>
      {here &&
        elements.map(e => {
          const found = foundIn(here.doc, e)
          return (
            <Line key={e.what + e.selector} bad={!found}>
              {purposes[e.what]} <code>{e.selector}</code>{' '}
              {found
                ? `is on ${page}${found > 1 ? `, ${found} times` : ''}.`
                : `was not found on ${page}. A script of the page may add it later; look with “See it live”.`}
            </Line>
          )
        })}
      {addresses.map(path => {
        const there = at(path)
        if (!there) return null
        return (
          <Line key={path} bad={there.state === 'missing'}>
            {there.state === 'missing' ? `It leads to ${path}, which the site does not have.` : `It leads to ${path}, which is there.`}
          </Line>
        )
      })}
      {led.length > mostPages && <Line bad>It leads to {counted(led.length - mostPages, 'more address', 'more addresses')}, which were not looked up.</Line>}
    </>
  )
}

const purposes = { click: 'What visitors click,', seen: 'What has to be seen,', place: 'Its position,' }

function foundIn(doc: Document, { selector }: OnPage): number {
  try {
    return doc.querySelectorAll(selector).length
  } catch {
    return 0
  }
}

/** What launching does to the other pieces, and they to it, on recorded visits. */
function Among({ info }: { info: PieceInfo }) {
  const r = useDraftRehearsal(28).data
  const at = useAddress()
  const priority = <Link to={at('/priority')}>Priority</Link>
  if (!r?.page_views) return null
  const limited = r.lost_to_site
  // What keeps it from less than a tenth of its showings is said, and is nothing to look at.
  const much = (views: number) => views * 10 >= r.showings + views
  const reach = `/pieces/${info.id}/reach`
  return (
    <>
      <Line bad={!r.visitors_shown}>
        It would have shown to {count(r.visitors_shown)} of {counted(r.visitors, 'recorded visitor')} in the last {r.days} days.{' '}
        <Link to={at(reach)}>Reach</Link>
      </Line>
      {r.won.length > 0 && (
        <Line bad={info.state !== 'live' && much(sum(r.won))}>
          It takes the place of {named(r.won)} on {counted(sum(r.won), 'page view')}. {priority}
        </Line>
      )}
      {r.lost.length > 0 && (
        <Line bad={much(sum(r.lost))}>
          {named(r.lost)} {r.lost.length > 1 ? 'show' : 'shows'} in its place on {counted(sum(r.lost), 'page view')}. {priority}
        </Line>
      )}
      {limited > 0 && (
        <Line bad={much(limited)}>
          The site’s limits hold it back on {counted(limited, 'page view')}. <Link to={at('/settings#limits')}>Limits over all pieces</Link>
        </Line>
      )}
      {!r.won.length && !r.lost.length && !limited && <Line>It takes no other piece’s place, and none takes its.</Line>}
    </>
  )
}

const sum = (all: Contest[]) => all.reduce((n, c) => n + c.views, 0)

const named = (all: Contest[]) => {
  const names = all.slice(0, 3).map(c => `“${c.name}” (${count(c.views)})`)
  return all.length === 1 ? `“${all[0].name}”` : names.join(', ') + (all.length > 3 ? ` and ${all.length - 3} more` : '')
}

function Line({ bad, children }: { bad?: boolean; children: ReactNode }) {
  return (
    <Box component="li" data-looked={bad ? 'look' : 'fine'} sx={{ display: 'flex', gap: '10px', py: '3px', overflowWrap: 'anywhere' }}>
      <Box component="b" aria-hidden sx={{ flex: 'none', width: 14, color: bad ? apricot.ink : moss.ink }}>
        {bad ? '!' : '✓'}
      </Box>
      <Box sx={{ color: bad ? ink[1] : ink[2] }}>{children}</Box>
    </Box>
  )
}
