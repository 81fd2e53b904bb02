import Box from '@mui/material/Box'
import ButtonBase from '@mui/material/ButtonBase'
import InputBase from '@mui/material/InputBase'
import Tooltip from '@mui/material/Tooltip'
import visuallyHidden from '@mui/utils/visuallyHidden'
import { memo, useDeferredValue, useState } from 'react'
import { NavLink, useLocation, useNavigate } from 'react-router'
import type { Fault } from '../../kinds/fault'
import type { PieceInfo } from '../../kinds/studio'
import { Tag } from '../parts/look/Tag'
import { Title } from '../parts/look/Title'
import { apricot, display, ink, paper, plum } from '../parts/look/theme'
import { counted, letters } from '../parts/words/say'
import { day } from '../parts/words/time'
import { useAllChecks, useLooking } from '../piece/checks/useChecks'
import { change, type Standing, save, useDraft, useFault } from '../piece/draft'
import { reachLine } from '../piece/reachLine'
import { useDraftRehearsal } from '../piece/rehearsal'
import { useAddress } from '../server/queries'
import { PieceMenu } from './PieceMenu'

const standings: Record<Standing, string> = {
  saved: 'saved',
  saving: 'saving…',
  unsaved: 'unsaved changes',
  faulty: 'not saved',
  away: 'kept in this browser',
  stale: 'not saved',
  gone: 'deleted',
}

/** A piece's name and state, and its five places, each with its own state in a line. */
export function PieceHead({ info }: { info: PieceInfo }) {
  // Deferred, so that typing never waits for it.
  const doc = useDeferredValue(useDraft(s => s.doc))
  const faults = useDraft(s => s.faults)
  const unsaved = useDraft(s => s.standing !== 'saved')
  const rehearsal = useDraftRehearsal(28).data
  useLooking()
  const checks = useAllChecks()
  const here = useLocation().pathname
  if (!doc) return null
  const variants = doc.split.variants
  const scenes = variants[0].design.scenes.length
  const shares = variants.reduce((sum, v) => sum + v.share, 0) || 1
  const changed = info.state === 'live' && (info.edited || unsaved)
  const places: [string, string, string, boolean][] = [
    ['compose', 'Compose', faults.some(designFault) ? 'needs fixing' : counted(scenes, 'scene'), faults.some(designFault)],
    ['reach', 'Reach', faults.some(f => reachFault(f)) ? 'needs fixing' : reachLine(doc.rule, rehearsal), faults.some(reachFault)],
    [
      'results',
      'Results',
      faults.some(splitFault)
        ? 'needs fixing'
        : variants.length === 1
          ? 'one variant'
          : variants.map((v, i) => `${letters[i]} ${Math.round((100 * v.share) / shares)}`).join(' · '),
      faults.some(splitFault),
    ],
    ['hand-off', 'Hand-off', '→ People', false],
    [
      'launch',
      'Launch',
      checks.length ? counted(checks.length, 'check') : changed ? 'changes not live yet' : info.state === 'live' ? 'live, no issues' : 'ready to launch',
      checks.length > 0,
    ],
  ]
  const place = places.find(([to]) => here.endsWith(`/${to}`))?.[1] ?? ''
  return (
    <Box
      sx={{
        display: 'flex',
        flex: 'none',
        // On a narrow window, or a large zoom, the places stand below the name.
        flexWrap: { xs: 'wrap', md: 'nowrap' },
        height: { md: 84 },
        pl: { xs: 0, md: '24px' },
        gap: { xs: 0, md: '20px' },
        minWidth: 0,
        background: paper.bench,
        borderBottom: `1px solid ${paper.line}`,
      }}
    >
      <Box sx={{ alignSelf: 'center', width: 222, flex: { xs: '1 0 100%', md: '0 1 222px' }, minWidth: 150, p: { xs: '8px 16px', md: 0 } }}>
        <Title of={`${doc.name} · ${place}`} />
        <Box component="h1" sx={visuallyHidden}>
          {doc.name}, {place}
        </Box>
        <Box sx={{ display: 'flex', alignItems: 'center' }}>
          <Name name={doc.name} />
          <PieceMenu info={info} name={doc.name} />
        </Box>
        <Stand info={info} changed={changed} />
      </Box>
      <Box
        component="nav"
        aria-label="Piece"
        sx={{ display: 'flex', flex: { xs: '1 0 100%', md: 1 }, minWidth: 0, borderTop: { xs: `1px solid ${paper.line}`, md: 'none' } }}
      >
        {places.map(([to, name, line, warn]) => (
          <Place key={to} to={to} name={name} line={line} warn={warn} />
        ))}
      </Box>
    </Box>
  )
}

/** The state of the draft: saved, or why it is not. */
function Stand({ info, changed }: { info: PieceInfo; changed: boolean }) {
  const standing = useDraft(s => s.standing)
  const version = useDraft(s => s.version)
  const faults = useDraft(s => s.faults)
  const go = useNavigate()
  const at = useAddress()
  return (
    <Tooltip title={faults.length ? faults.map(f => f.message).join(' ') : info.state === 'live' ? `Live since ${day(info.live_since!)}` : ''}>
      <ButtonBase
        onClick={() => (faults.length ? go(at(`/pieces/${info.id}/${faults[0].at.startsWith('split') ? 'compose' : 'reach'}`)) : save())}
        sx={{ borderRadius: '4px', minHeight: 24 }}
        data-standing={standing}
        aria-live="polite"
      >
        <Tag look={standing === 'faulty' || standing === 'stale' || standing === 'gone' ? 'bad' : info.state === 'live' && !changed ? 'live' : 'draft'}>
          {info.state === 'live' && !changed
            ? 'Live'
            : info.state === 'paused' && !info.edited
              ? 'Paused'
              : info.state === 'over' && !info.edited
                ? 'Ended'
                : `Draft ${version}`}{' '}
          · {standings[standing]}
        </Tag>
      </ButtonBase>
    </Tooltip>
  )
}

/** One of the five places, and its state in a line; drawn anew only when that changes. */
const Place = memo(function Place({ to, name, line, warn }: { to: string; name: string; line: string; warn: boolean }) {
  return (
    <Box
      component={NavLink}
      to={to}
      sx={{
        flex: 1,
        minWidth: 0,
        p: { xs: '7px 2px 9px 5px', sm: '7px 6px 9px 10px', md: '17px 12px 0 16px' },
        position: 'relative',
        borderLeft: `1px solid ${paper.line}`,
        color: ink[1],
        textDecoration: 'none',
        '& b': { display: 'block', font: `640 15px ${display}`, fontSize: { xs: 12.5, sm: 15 } },
        '& span': {
          display: 'block',
          fontSize: 12.5,
          color: warn ? apricot.ink : ink[2],
          fontWeight: warn ? 600 : 400,
          overflow: 'hidden',
          textOverflow: 'ellipsis',
          whiteSpace: 'nowrap',
        },
        '&:hover b': { color: plum.main },
        '&.active': { background: paper.page },
        '&.active b': { color: plum.main },
        '&.active::after': {
          content: '""',
          position: 'absolute',
          left: 0,
          right: 0,
          bottom: '-1px',
          height: 4,
          background: plum.main,
          forcedColorAdjust: 'none',
        },
      }}
    >
      <b>{name}</b>
      <span>{line}</span>
    </Box>
  )
})

const reachFault = (f: Fault) => /^(rule|caps|schedule)/.test(f.at)
const designFault = (f: Fault) => /^split\.variants\[\d+\]\.(design|format|phone_format)/.test(f.at)
const splitFault = (f: Fault) => f.at.startsWith('split') && !designFault(f)

function Name({ name }: { name: string }) {
  const fault = useFault('name')
  const [typed, setTyped] = useState<string | null>(null)
  return (
    <Tooltip title={fault ?? ''}>
      <InputBase
        value={typed ?? name}
        onChange={e => setTyped(e.target.value)}
        onBlur={() => {
          // An empty name is not saved: the old one stays.
          if (typed?.trim()) change(doc => void (doc.name = typed.trim()))
          setTyped(null)
        }}
        onKeyDown={e => e.key === 'Enter' && (e.target as HTMLElement).blur()}
        data-free
        inputProps={{ 'aria-label': 'Name of the piece', maxLength: 120 }}
        fullWidth
        sx={{
          ml: '-6px',
          '& input': {
            font: `640 20px ${display}`,
            letterSpacing: '-.015em',
            p: '1px 6px',
            borderRadius: '5px',
            textOverflow: 'ellipsis',
            '&:hover': { background: paper.page },
            '&:focus': { background: paper.sheet, outline: `1px solid ${plum.main}` },
          },
        }}
      />
    </Tooltip>
  )
}
