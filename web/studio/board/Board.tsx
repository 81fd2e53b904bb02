import Add from '@mui/icons-material/Add'
import Close from '@mui/icons-material/Close'
import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import ButtonBase from '@mui/material/ButtonBase'
import IconButton from '@mui/material/IconButton'
import MenuItem from '@mui/material/MenuItem'
import Select from '@mui/material/Select'
import Skeleton from '@mui/material/Skeleton'
import Typography from '@mui/material/Typography'
import { type ReactNode, useState } from 'react'
import { Link } from 'react-router'
import type { Format } from '../../kinds/piece'
import type { Board as BoardInfo, Card } from '../../kinds/studio'
import { AlertLines } from '../parts/figures/AlertLines'
import { VirtualGrid } from '../parts/figures/Virtual'
import { applies, nameOf } from '../parts/keys/actions'
import { Loaded } from '../parts/look/Loaded'
import { SearchBox } from '../parts/look/SearchBox'
import { Title } from '../parts/look/Title'
import { apricot, ink, paper, plum } from '../parts/look/theme'
import { useAsked } from '../parts/words/asked'
import { between, count, counted, percent } from '../parts/words/say'
import { moment } from '../parts/words/time'
import { pieceActions, resumePieces } from '../piece/actions'
import { formats, useAddress, useBoard, useSite } from '../server/queries'
import { Deleted } from './Deleted'
import { PauseAll } from './PauseAll'
import { PieceCard } from './PieceCard'

const sorts: Record<string, [string, (a: Card, b: Card) => number]> = {
  newest: ['newest first', (a, b) => b.since.localeCompare(a.since)],
  rate: ['conversion rate', (a, b) => (b.measure.rate ?? -1) - (a.measure.rate ?? -1)],
  visitors: ['visitors', (a, b) => b.measure.visitors - a.measure.visitors],
  name: ['name', (a, b) => a.name.localeCompare(b.name)],
}

const states = [
  ['all', 'All'],
  ['live', 'Live'],
  ['draft', 'Draft'],
  ['paused', 'Paused'],
  ['over', 'Ended'],
] as const

/** The site's pieces at a glance: what is on the site now, and how each does. */
export function Board() {
  const board = useBoard()
  return (
    <Box component="main" sx={{ p: '22px 26px 40px', maxWidth: 1500, width: '100%', mx: 'auto' }}>
      <Title of="Board" />
      <Box sx={{ mb: '14px', '&:empty': { display: 'none' } }}>
        <AlertLines />
      </Box>
      <Loaded query={board} what="the board" placeholder={<Placeholder />}>
        {data => <Pieces board={data} />}
      </Loaded>
    </Box>
  )
}

const Placeholder = () => (
  <>
    <Skeleton variant="rounded" width={300} height={54} sx={{ mb: '18px' }} />
    <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(290px, 1fr))', gap: '16px' }}>
      {[0, 1, 2, 3].map(i => (
        <Skeleton key={i} variant="rounded" height={330} />
      ))}
    </Box>
  </>
)

function Pieces({ board }: { board: BoardInfo }) {
  const at = useAddress()
  const [query, ask, clear] = useAsked()
  const [open, setOpen] = useState<'deleted' | 'pause' | null>(null)
  const [chosen, setChosen] = useState<string[]>([])
  const state = query.get('state') ?? 'all'
  const format = query.get('format') ?? ''
  const search = query.get('q') ?? ''
  const sort = query.get('sort') ?? 'newest'
  const put = (key: string, value: string) => ask({ [key]: value }, { replace: true })
  const { cards, overall } = board
  const words = search.trim().toLowerCase()
  const matching = cards.filter(c => (!format || c.format === format) && c.name.toLowerCase().includes(words))
  const of = (s: string) => (s === 'all' ? matching : matching.filter(c => c.state === s))
  const shown = [...of(state)].sort((sorts[sort] ?? sorts.newest)[1])
  const picked = cards.filter(c => chosen.includes(c.id))
  const toggle = (id: string) => setChosen(now => (now.includes(id) ? now.filter(x => x !== id) : [...now, id]))
  const liveCount = cards.filter(c => c.state === 'live').length
  const filtered = !!(words || format || state !== 'all')
  return (
    <>
      <Box sx={{ display: 'flex', alignItems: 'flex-end', gap: '26px', mb: '18px', flexWrap: 'wrap' }}>
        <Box>
          <Typography variant="h1">On the site now</Typography>
          <Typography color="textSecondary">
            {liveCount} live, {counted(cards.filter(c => c.state === 'draft').length, 'draft')} · last {board.days} days
          </Typography>
        </Box>
        {overall.visitors > 0 && (
          <Box sx={{ display: 'flex', gap: '26px' }}>
            <Figure figure={count(overall.visitors)} under="saw a piece" />
            <Figure figure={count(overall.conversions)} under="converted" />
            <Figure figure={percent(overall.rate ?? 0)} under={`conversion rate · ${between(overall.interval)}`} />
          </Box>
        )}
        <Box sx={{ ml: 'auto', display: 'flex', gap: 1 }}>
          {liveCount > 0 && (
            <Button variant="outlined" onClick={() => setOpen('pause')}>
              Pause all…
            </Button>
          )}
          <Button variant="contained" startIcon={<Add />} component={Link} to={at('/new')}>
            New piece
          </Button>
        </Box>
      </Box>
      <PausedLine cards={cards} />
      <Box sx={{ display: 'flex', gap: '8px 18px', alignItems: 'center', mb: '16px', borderBottom: `1px solid ${paper.line}`, flexWrap: 'wrap' }}>
        {states.map(([key, name]) => (
          <ButtonBase
            key={key}
            aria-pressed={state === key}
            onClick={() => put('state', key === 'all' ? '' : key)}
            sx={{
              pb: '9px',
              mb: '-1px',
              borderBottom: `2px solid ${state === key ? plum.main : 'transparent'}`,
              fontWeight: state === key ? 700 : 450,
              fontSize: 14,
              fontFamily: 'inherit',
            }}
          >
            {name} {of(key).length}
          </ButtonBase>
        ))}
        <SearchBox
          label="Search by name"
          placeholder="Search by name"
          value={search}
          onChange={q => put('q', q)}
          most={120}
          width={180}
          sx={{ height: 32, mb: '6px' }}
        />
        <Select
          variant="standard"
          disableUnderline
          displayEmpty
          value={format}
          onChange={e => put('format', e.target.value)}
          renderValue={f => `Format: ${f ? formats[f as Format] : 'all'}`}
          inputProps={{ 'aria-label': 'Format' }}
          sx={{ color: ink[2], fontSize: 14 }}
        >
          <MenuItem value="">All formats</MenuItem>
          {Object.entries(formats).map(([f, name]) => (
            <MenuItem key={f} value={f}>
              {name}
            </MenuItem>
          ))}
        </Select>
        <Select
          variant="standard"
          disableUnderline
          value={sorts[sort] ? sort : 'newest'}
          onChange={e => put('sort', e.target.value)}
          renderValue={s => `Sort: ${sorts[s][0]}`}
          inputProps={{ 'aria-label': 'Sort by' }}
          sx={{ color: ink[2], fontSize: 14 }}
        >
          {Object.entries(sorts).map(([key, [name]]) => (
            <MenuItem key={key} value={key}>
              {name}
            </MenuItem>
          ))}
        </Select>
        <Box sx={{ ml: 'auto', display: 'flex', gap: '18px', pb: '6px' }}>
          <Link to={at('/priority')}>Priority</Link>
          <ButtonBase onClick={() => setOpen('deleted')} sx={{ fontSize: 14, color: ink[2], '&:hover': { color: plum.main } }}>
            Deleted pieces
          </ButtonBase>
        </Box>
      </Box>
      {picked.length > 0 && <Selection picked={picked} all={shown} onChoose={setChosen} />}
      <VirtualGrid of={shown} least={290} gap={16} height={351}>
        {card => <PieceCard key={card.id} card={card} chosen={chosen.includes(card.id)} choosing={picked.length > 0} onChoose={() => toggle(card.id)} />}
      </VirtualGrid>
      {shown.length === 0 && (
        <Box sx={{ textAlign: 'center', py: '9vh' }}>
          <Typography variant="h2">{filtered && cards.length ? 'No pieces match' : 'No pieces yet'}</Typography>
          <Typography color="textSecondary" sx={{ mt: 0.5, mb: 2 }}>
            {filtered && cards.length ? 'Change the search or the filters.' : 'A piece is one thing shown on your site: a popup with a sign-up form, say.'}
          </Typography>
          {filtered && cards.length ? (
            <Button variant="outlined" onClick={clear}>
              Clear filters
            </Button>
          ) : (
            <Button variant="contained" component={Link} to={at('/new')}>
              New piece
            </Button>
          )}
        </Box>
      )}
      <Deleted open={open === 'deleted'} onClose={() => setOpen(null)} />
      {open === 'pause' && <PauseAll live={liveCount} onClose={() => setOpen(null)} />}
    </>
  )
}

/** Says what goes live again by itself and what will pause, and when. */
function PausedLine({ cards }: { cards: readonly Card[] }) {
  const timed = cards.filter(c => c.state === 'paused' && c.paused_until)
  const planned = cards.filter(c => c.state === 'live' && c.pauses_at)
  const resumes = timed.map(c => c.paused_until!).sort()
  const stops = planned.map(c => c.pauses_at!).sort()
  const ends = planned.flatMap(c => c.paused_until ?? []).sort()
  return (
    <>
      {timed.length > 0 && (
        <Notice cards={timed} back="Resume now">
          {counted(timed.length, 'piece')} paused until {moment(resumes[0])}
          {resumes[0] === resumes.at(-1) ? '.' : ' or later.'}
        </Notice>
      )}
      {planned.length > 0 && (
        <Notice cards={planned} back="Cancel the pause">
          {counted(planned.length, 'piece')} will pause on {moment(stops[0])}
          {ends.length === planned.length && `, and resume on ${moment(ends[0])}`}.
        </Notice>
      )}
    </>
  )
}

/** A line on pieces that are paused or will be, with the button that takes it back. */
function Notice({ cards, back, children }: { cards: readonly Card[]; back: string; children: ReactNode }) {
  const site = useSite().id
  return (
    <Box
      role="status"
      sx={{
        display: 'flex',
        alignItems: 'center',
        gap: 2,
        background: apricot.wash,
        color: apricot.ink,
        borderRadius: '8px',
        p: '8px 14px',
        mb: '16px',
        fontWeight: 600,
      }}
    >
      <Box sx={{ flex: 1 }}>{children}</Box>
      <Button size="small" variant="outlined" onClick={() => resumePieces(site, cards)}>
        {back}
      </Button>
    </Box>
  )
}

/** What can be done with the pieces that are selected. */
function Selection({ picked, all, onChoose }: { picked: Card[]; all: Card[]; onChoose(ids: string[]): void }) {
  const site = useSite().id
  const on = { site, pieces: picked }
  return (
    <Box
      role="toolbar"
      aria-label="Selected pieces"
      sx={{
        position: 'sticky',
        top: 8,
        zIndex: 3,
        display: 'flex',
        alignItems: 'center',
        gap: 1,
        p: '6px 8px 6px 16px',
        mb: '16px',
        background: ink[1],
        color: '#f2eaf2',
        borderRadius: '8px',
        '& button': { color: 'inherit' },
      }}
    >
      <Box sx={{ fontWeight: 600, mr: 1 }}>{picked.length} selected</Box>
      {Object.values(pieceActions)
        .filter(a => applies(a, on))
        .map(a => (
          <Button
            key={nameOf(a, on)}
            size="small"
            onClick={() => {
              a.run(on)
              onChoose([])
            }}
          >
            {nameOf(a, on)}
          </Button>
        ))}
      <Button size="small" sx={{ ml: 'auto' }} onClick={() => onChoose(all.map(c => c.id))}>
        Select all {all.length}
      </Button>
      <IconButton size="small" aria-label="Clear selection" onClick={() => onChoose([])}>
        <Close fontSize="small" />
      </IconButton>
    </Box>
  )
}

function Figure({ figure, under }: { figure: string; under: string }) {
  return (
    <Box sx={{ borderLeft: `2px solid ${paper.strong}`, pl: '10px' }}>
      <Typography variant="h2" component="p" sx={{ fontSize: 19 }}>
        {figure}
      </Typography>
      <Typography variant="body2" color="textSecondary">
        {under}
      </Typography>
    </Box>
  )
}
