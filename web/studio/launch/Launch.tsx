import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import { useState } from 'react'
import { Link, useOutletContext } from 'react-router'
import type { Note } from '../../kinds/settle'
import type { PieceInfo } from '../../kinds/studio'
import { api, type Trouble } from '../api'
import { replace, save, useDraft } from '../bench/draft'
import { Desk } from '../parts/Desk'
import { Miniature } from '../parts/Miniature'
import { Sheet } from '../parts/Sheet'
import { counted, moment } from '../parts/say'
import { StateTag } from '../parts/Tag'
import { client, useSite } from '../queries'
import { useNotes } from '../reach/useDraftRehearsal'
import { apricot, brick, paper } from '../theme'
import { OwnPageSheet } from './OwnPageSheet'

/** Notes to settle, and going live and resting. */
export function Launch() {
  const info = useOutletContext<PieceInfo>()
  const { doc, standing, version } = useDraft()
  const notes = useNotes()
  const site = useSite()
  const [busy, setBusy] = useState(false)
  const [trouble, setTrouble] = useState<Trouble | null>(null)
  if (!doc) return null
  const stops = notes.filter(n => n.severity === 'stop').length
  const changed = info.live_version !== version || standing !== 'saved'
  const live = info.state === 'live'
  const act = async (what: 'launch' | 'rest') => {
    setBusy(true)
    setTrouble(null)
    try {
      await save()
      const now = useDraft.getState()
      if (what === 'launch' && now.standing !== 'saved')
        throw Object.assign(new Error('The latest changes are not saved yet, so they cannot go live.'), { faults: now.faults })
      const next = await api<PieceInfo>('POST', `/sites/${site.id}/pieces/${info.id}/${what}`, { version: now.version })
      client.setQueryData(['piece', site.id, info.id], next)
      client.invalidateQueries({ queryKey: ['board', site.id] })
    } catch (e) {
      setTrouble(e as Trouble)
    }
    setBusy(false)
  }
  const [head, line] = stand(info, stops, notes.length - stops, changed)
  const design = doc.split.variants[0].design
  return (
    <Desk>
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
          <Button variant="outlined" disabled={busy} onClick={() => act('rest')}>
            Let it rest
          </Button>
        )}
        {(!live || changed) && (
          <Button variant="contained" disabled={busy || stops > 0} onClick={() => act('launch')}>
            {busy ? 'One moment…' : live ? 'Put the changes live' : 'Go live'}
          </Button>
        )}
      </Sheet>
      <Box sx={{ display: 'grid', gap: '18px' }}>
        <Sheet>
          <Typography variant="h3" component="h2" sx={{ mb: '6px' }}>
            {notes.length ? `${counted(notes.length, 'note')} to settle` : 'Nothing to settle'}
          </Typography>
          {notes.length === 0 && (
            <Typography color="textSecondary">
              It can be closed, read, sent and capped; there is a thank-you, and something counts as the conversion.
            </Typography>
          )}
          {notes.map(n => (
            <NoteLine key={n.code + n.at} note={n} piece={info.id} />
          ))}
        </Sheet>
        <OwnPageSheet info={info} faults={trouble?.faults ?? []} />
      </Box>
      <Sheet sx={{ p: 0, overflow: 'hidden' }}>
        <Box sx={{ '& > div': { width: '100% !important' }, borderBottom: `1px solid ${paper.line}` }}>
          <Miniature drawing={{ version: doc.version, format: doc.format, ...design }} width={386} height={250} />
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
          <dt>On</dt>
          <dd>{site.origins.join(', ') || 'no domain yet'}</dd>
          {info.live_since && (
            <>
              <dt>{live ? 'Live since' : 'Last went live'}</dt>
              <dd>{moment(info.live_since)}</dd>
            </>
          )}
          {info.rested_at && (
            <>
              <dt>Rests since</dt>
              <dd>{moment(info.rested_at)}</dd>
            </>
          )}
          {info.live && changed && (
            <>
              <dt>Changes</dt>
              <dd>
                <Button size="small" variant="outlined" onClick={() => replace(info.live!)} sx={{ py: '2px' }}>
                  Put back what {live ? 'is' : 'was'} live
                </Button>
              </dd>
            </>
          )}
        </Box>
      </Sheet>
    </Desk>
  )
}

function stand(info: PieceInfo, stops: number, advice: number, changed: boolean): [string, string] {
  if (stops) return [`${stops === 1 ? 'One note stops' : `${stops} notes stop`} it from going live.`, 'Settle what is marked below; the rest is good advice.']
  if (info.state === 'live')
    return changed
      ? ['Live, with changes that visitors do not see yet.', 'Pages that are open keep what they have; the next load gets the new one.']
      : ['Live.', 'What you see here is what visitors get.']
  if (advice && info.state === 'draft')
    return [
      `It can go live. ${advice === 1 ? 'One note is' : `${advice} notes are`} worth settling first.`,
      'Advice stops nothing: it is what practice has taught.',
    ]
  return [info.state === 'resting' ? 'Resting. It can go live again.' : 'Ready to go live.', 'It shows from the next page load on, within a second.']
}

function NoteLine({ note, piece }: { note: Note; piece: string }) {
  const doc = useDraft(s => s.doc)!
  const m = note.at.match(/^split\.variants\[(\d+)\]\.design(?:\.scenes\[(\d+)\](?:\.blocks\[(\d+)\])?)?/)
  const block = m?.[3] ? doc.split.variants[+m[1]]?.design.scenes[+m[2]]?.blocks[+m[3]]?.id : note.at.includes('close') ? 'close' : ''
  const to = m ? `/pieces/${piece}/compose?variant=${m[1]}${block ? `&block=${block}` : ''}` : `/pieces/${piece}/reach`
  const stop = note.severity === 'stop'
  return (
    <Box sx={{ display: 'flex', gap: '12px', alignItems: 'baseline', py: '9px', borderTop: `1px solid ${paper.line}` }}>
      <Box component="b" sx={{ width: 56, flex: 'none', color: stop ? brick.main : apricot.ink, fontSize: 12.5 }}>
        {stop ? '✗ stops' : '! advice'}
      </Box>
      <Box sx={{ flex: 1 }}>
        {note.say}{' '}
        <Box component="span" sx={{ color: 'text.secondary' }}>
          {note.mend}
        </Box>
      </Box>
      <Box component={Link} to={to} sx={{ fontWeight: 600, flex: 'none', textDecoration: 'none', '&:hover': { textDecoration: 'underline' } }}>
        Go there
      </Box>
    </Box>
  )
}
