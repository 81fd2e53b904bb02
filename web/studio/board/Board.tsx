import Add from '@mui/icons-material/Add'
import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import ButtonBase from '@mui/material/ButtonBase'
import MenuItem from '@mui/material/MenuItem'
import Select from '@mui/material/Select'
import Skeleton from '@mui/material/Skeleton'
import Snackbar from '@mui/material/Snackbar'
import Typography from '@mui/material/Typography'
import { useState } from 'react'
import { Link, useSearchParams } from 'react-router'
import type { Card } from '../../kinds/studio'
import { api } from '../api'
import { between, count, counted, percent } from '../parts/say'
import { client, useBoard, useSite } from '../queries'
import { ink, paper, plum } from '../theme'
import { Deleted } from './Deleted'
import { PieceCard } from './PieceCard'

const sorts: Record<string, [string, (a: Card, b: Card) => number]> = {
  newest: ['newest first', (a, b) => b.since.localeCompare(a.since)],
  rate: ['conversion rate', (a, b) => (b.measure.rate ?? -1) - (a.measure.rate ?? -1)],
  visitors: ['visitors who saw it', (a, b) => b.measure.visitors - a.measure.visitors],
  name: ['name', (a, b) => a.name.localeCompare(b.name)],
}

/** The site's pieces at a glance: what is on the site now, and how each does. */
export function Board() {
  const board = useBoard().data
  const site = useSite().id
  const [query, setQuery] = useSearchParams()
  const [deleted, setDeleted] = useState(false)
  const [removed, setRemoved] = useState<Card | null>(null)
  const only = query.get('state') ?? 'all'
  const sort = query.get('sort') ?? 'newest'
  const put = (key: string, value: string) => setQuery(q => ({ ...Object.fromEntries(q), [key]: value }), { replace: true })
  const cards = board?.cards ?? []
  const of = (state: string) => (state === 'all' ? cards : cards.filter(c => c.state === state))
  const remove = async (card: Card, away: boolean) => {
    await api(away ? 'DELETE' : 'POST', `/sites/${site}/pieces/${card.id}${away ? '' : '/restore'}`)
    setRemoved(away ? card : null)
    client.invalidateQueries({ queryKey: ['board', site] })
  }
  return (
    <Box component="main" sx={{ p: '22px 26px 40px', maxWidth: 1500, width: '100%', mx: 'auto' }}>
      <Box sx={{ display: 'flex', alignItems: 'flex-end', gap: '26px', mb: '18px', flexWrap: 'wrap' }}>
        <Box>
          <Typography variant="h1">On the site now</Typography>
          <Typography color="textSecondary">
            {of('live').length} live, {of('draft').length} in draft · last {board?.days ?? 28} days
          </Typography>
        </Box>
        {board && board.overall.visitors > 0 && (
          <Box sx={{ display: 'flex', gap: '26px' }}>
            <Figure figure={count(board.overall.visitors)} under="saw a piece" />
            <Figure figure={count(board.overall.conversions)} under="converted" />
            <Figure figure={percent(board.overall.rate ?? 0)} under={`of those who saw · ${between(board.overall.interval)}`} />
          </Box>
        )}
        <Button variant="contained" startIcon={<Add />} component={Link} to="/new" sx={{ ml: 'auto' }}>
          New piece
        </Button>
      </Box>
      <Box sx={{ display: 'flex', gap: '18px', alignItems: 'center', mb: '16px', borderBottom: `1px solid ${paper.line}` }}>
        {[
          ['all', 'All'],
          ['live', 'Live'],
          ['draft', 'Draft'],
          ['resting', 'Resting'],
        ].map(([state, name]) => (
          <ButtonBase
            key={state}
            aria-pressed={only === state}
            onClick={() => put('state', state)}
            sx={{
              pb: '9px',
              mb: '-1px',
              borderBottom: `2px solid ${only === state ? plum.main : 'transparent'}`,
              fontWeight: only === state ? 700 : 450,
              fontSize: 14,
              fontFamily: 'inherit',
            }}
          >
            {name} {of(state).length}
          </ButtonBase>
        ))}
        <ButtonBase onClick={() => setDeleted(true)} sx={{ ml: 'auto', pb: '6px', fontSize: 14, color: ink[2], '&:hover': { color: plum.main } }}>
          Deleted
        </ButtonBase>
        <Link to="/order" style={{ paddingBottom: 6 }}>
          Who wins
        </Link>
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
      </Box>
      <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(290px, 1fr))', gap: '16px' }}>
        {!board && [0, 1, 2].map(i => <Skeleton key={i} variant="rounded" height={310} />)}
        {[...of(only)].sort((sorts[sort] ?? sorts.newest)[1]).map(card => (
          <PieceCard key={card.id} card={card} onRemove={() => remove(card, true)} />
        ))}
      </Box>
      {board && of(only).length === 0 && (
        <Box sx={{ textAlign: 'center', py: '9vh' }}>
          <Typography variant="h2">{cards.length ? `Nothing is ${only} just now` : 'Nothing here yet'}</Typography>
          <Typography color="textSecondary" sx={{ mt: 0.5, mb: 2 }}>
            A piece is one thing shown on your site: a popup that asks for an address, say.
          </Typography>
          <Button variant="contained" component={Link} to="/new">
            Make {cards.length ? 'a' : 'the first'} piece
          </Button>
        </Box>
      )}
      <Deleted open={deleted} onClose={() => setDeleted(false)} />
      <Snackbar
        open={!!removed}
        autoHideDuration={12_000}
        onClose={(_, why) => why !== 'clickaway' && setRemoved(null)}
        message={`“${removed?.name}” is deleted, and kept for 30 days.${removed?.measure.visitors ? ` Its ${counted(removed.measure.visitors, 'visitor')} stay counted.` : ''}`}
        action={
          <Button size="small" sx={{ color: '#f2b58b' }} onClick={() => removed && remove(removed, false)}>
            Restore
          </Button>
        }
      />
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
