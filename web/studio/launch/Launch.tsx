import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import { useState } from 'react'
import { Link, useOutletContext } from 'react-router'
import type { Note } from '../../kinds/settle'
import type { PieceInfo } from '../../kinds/studio'
import { Sheet } from '../parts/look/Sheet'
import { StateTag } from '../parts/look/Tag'
import { TwoColumns } from '../parts/look/TwoColumns'
import { apricot, brick, paper } from '../parts/look/theme'
import { Miniature } from '../parts/pages/Miniature'
import { counted } from '../parts/words/say'
import { moment } from '../parts/words/time'
import { pausePieces, resumePieces } from '../piece/actions'
import { useAllChecks, useLooked } from '../piece/checks/useChecks'
import { draftHere, replace, useDraft } from '../piece/draft'
import { useDrawing } from '../piece/drawing'
import { api, type Trouble } from '../server/api'
import { client, refreshPieces, useAddress, useSite } from '../server/queries'
import { Looked } from './Looked'
import { pageOf } from './looked'
import { OwnPageSheet } from './OwnPageSheet'

/** The checks before launch, launching and pausing. */
export function Launch() {
  const info = useOutletContext<PieceInfo>()
  const { standing } = useDraft()
  const doc = useDraft(s => s.doc)!
  const drawing = useDrawing(doc, doc.split.variants[0].design)
  const at = useAddress()
  const all = useAllChecks()
  const notes = [...all.filter(n => n.severity === 'stop'), ...all.filter(n => n.severity !== 'stop')]
  const looked = useLooked()
  const site = useSite()
  const [busy, setBusy] = useState(false)
  const [trouble, setTrouble] = useState<Trouble | null>(null)
  const stops = notes.filter(n => n.severity === 'stop').length
  const changed = info.edited || standing !== 'saved'
  const live = info.state === 'live'
  const launch = async () => {
    setBusy(true)
    setTrouble(null)
    try {
      const draft = draftHere()
      await draft.save()
      const now = draft.state
      if (now.standing !== 'saved') throw Object.assign(new Error('The latest changes are not saved yet, so they cannot be launched.'), { faults: now.faults })
      const next = await api('POST /sites/:site/pieces/:piece/launch', { site: site.id, piece: info.id }, { body: { version: now.version } })
      client.setQueryData(['piece', site.id, info.id], next)
      refreshPieces(site.id)
    } catch (e) {
      setTrouble(e as Trouble)
    }
    setBusy(false)
  }
  // The page where it shows, with what says why it does or does not, and shows it at a click.
  const see = async () => {
    const tab = window.open('', '_blank')
    setTrouble(null)
    try {
      const { url } = await api('POST /sites/:site/pieces/:piece/inspect', { site: site.id, piece: info.id }, { body: { path: pageOf(doc) } })
      if (tab) tab.location.href = url
      else location.assign(url)
    } catch (e) {
      tab?.close()
      setTrouble(e as Trouble)
    }
  }
  const [head, line] = summary(info, stops, notes.length - stops, changed)
  return (
    <TwoColumns>
      <Sheet bitten sx={{ gridColumn: '1 / -1', display: 'flex', alignItems: 'center', gap: 2, pr: '44px' }}>
        <Box sx={{ flex: 1 }}>
          <Typography variant="h2" sx={{ fontSize: 21 }}>
            {head}
          </Typography>
          <Typography color="textSecondary">{line}</Typography>
          {trouble && (
            <Typography role="alert" sx={{ color: brick.main, fontWeight: 600, mt: '4px' }}>
              {trouble.message}
            </Typography>
          )}
        </Box>
        {live && (
          <Button variant="outlined" disabled={busy} onClick={see}>
            See it live
          </Button>
        )}
        {live && (
          <Button variant="outlined" disabled={busy} onClick={() => pausePieces(site.id, [{ id: info.id, name: doc.name, state: 'live' }])}>
            Pause
          </Button>
        )}
        {live && info.pauses_at && (
          <Button
            variant="outlined"
            disabled={busy}
            onClick={() => resumePieces(site.id, [{ id: info.id, name: doc.name, state: 'live', pauses_at: info.pauses_at }])}
          >
            Cancel the planned pause
          </Button>
        )}
        {info.state === 'paused' && (
          <Button variant="outlined" disabled={busy} onClick={() => resumePieces(site.id, [{ id: info.id, name: doc.name, state: 'paused' }])}>
            Resume as it was live
          </Button>
        )}
        {(!live || changed) && (
          <Button variant="contained" disabled={busy || stops > 0} onClick={launch}>
            {busy ? 'Launching…' : live ? 'Launch changes' : 'Launch'}
          </Button>
        )}
      </Sheet>
      <Box sx={{ display: 'grid', gap: '18px' }}>
        <Sheet>
          <Typography variant="h3" component="h2" sx={{ mb: '6px' }}>
            {notes.length ? counted(notes.length, 'check') : looked ? 'No issues' : 'Looking it over…'}
          </Typography>
          {notes.map(n => (
            <CheckLine key={n.code + n.at} check={n} piece={info.id} />
          ))}
          <Box sx={notes.length ? { borderTop: `1px solid ${paper.line}`, pt: '8px' } : {}}>
            <Looked info={info} issues={notes.length > 0 || !looked} />
          </Box>
        </Sheet>
        <OwnPageSheet info={info} faults={trouble?.faults ?? []} />
      </Box>
      <Sheet sx={{ p: 0, overflow: 'hidden' }}>
        <Box sx={{ '& > div': { width: '100% !important' }, borderBottom: `1px solid ${paper.line}` }}>
          <Miniature drawing={drawing} width={386} height={250} />
        </Box>
        <Box
          component="dl"
          sx={{
            m: 0,
            p: '12px 18px 16px',
            display: 'grid',
            gridTemplateColumns: 'auto 1fr',
            gap: '5px 14px',
            fontSize: 13.5,
            '& dt': { color: 'text.secondary' },
            '& dd': { m: 0 },
          }}
        >
          <dt>State</dt>
          <dd>
            <StateTag state={info.state} />
          </dd>
          <dt>Domains</dt>
          <dd>{site.origins.join(', ') || <Link to={at('/settings')}>Add a domain</Link>}</dd>
          {info.live_since && (
            <>
              <dt>{live ? 'Live since' : 'Last launched'}</dt>
              <dd>{moment(info.live_since)}</dd>
            </>
          )}
          {info.paused_at && (
            <>
              <dt>Paused</dt>
              <dd>{info.paused_until ? `until ${moment(info.paused_until)}` : `since ${moment(info.paused_at)}`}</dd>
            </>
          )}
          {info.live && changed && (
            <>
              <dt>Changes</dt>
              <dd>
                <Button size="small" variant="outlined" onClick={() => replace(info.live!)} sx={{ py: '2px' }}>
                  Discard changes
                </Button>
              </dd>
            </>
          )}
        </Box>
      </Sheet>
    </TwoColumns>
  )
}

function summary(info: PieceInfo, stops: number, advice: number, changed: boolean): [string, string] {
  if (stops)
    return [`${stops === 1 ? 'One problem has' : `${stops} problems have`} to be fixed before launch.`, 'They are marked below; the other checks are advice.']
  const planned = info.pauses_at
    ? `It pauses on ${moment(info.pauses_at)}${info.paused_until ? `, until ${moment(info.paused_until)}` : ', until it is resumed'}.`
    : ''
  if (info.state === 'live')
    return changed
      ? ['Live, with changes that visitors do not see yet.', 'Pages that are open keep what they have; new page views get the changes.']
      : ['Live.', planned || 'Visitors see what you see here.']
  if (advice && info.state === 'draft')
    return [`It can be launched. ${advice === 1 ? 'One check is' : `${advice} checks are`} worth a look first.`, 'Advice does not stop a launch.']
  const was = { paused: 'Paused.', over: 'Its schedule has ended. Set a later end in Reach before you launch it again.' }[info.state as string]
  return [was ?? 'Ready to launch.', 'Once launched, it shows within a second, from the next page view on.']
}

function CheckLine({ check, piece }: { check: Note; piece: string }) {
  const at = useAddress()
  const doc = useDraft(s => s.doc)!
  const m = check.at.match(/^split\.variants\[(\d+)\]\.design(?:\.scenes\[(\d+)\](?:\.blocks\[(\d+)\])?)?/)
  const block = m?.[3] ? doc.split.variants[+m[1]]?.design.scenes[+m[2]]?.blocks[+m[3]]?.id : check.at.includes('close') ? 'close' : ''
  const scene = m?.[2] ? doc.split.variants[+m[1]]?.design.scenes[+m[2]]?.id : ''
  const to = at(
    m
      ? `/pieces/${piece}/compose?variant=${m[1]}${scene ? `&scene=${scene}` : ''}${block ? `&block=${block}` : ''}`
      : check.at.startsWith('page')
        ? `/pieces/${piece}/launch`
        : `/pieces/${piece}/reach`,
  )
  const stop = check.severity === 'stop'
  return (
    <Box sx={{ display: 'flex', gap: '12px', alignItems: 'baseline', py: '9px', borderTop: `1px solid ${paper.line}` }}>
      <Box component="b" sx={{ width: 56, flex: 'none', color: stop ? brick.main : apricot.ink, fontSize: 12.5 }}>
        {stop ? '✗ fix' : '! advice'}
      </Box>
      <Box sx={{ flex: 1 }}>
        {check.say}{' '}
        <Box component="span" sx={{ color: 'text.secondary' }}>
          {check.mend}
        </Box>
      </Box>
      <Box component={Link} to={to} sx={{ fontWeight: 600, flex: 'none', textDecoration: 'none', '&:hover': { textDecoration: 'underline' } }}>
        Show
      </Box>
    </Box>
  )
}
