import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import ButtonBase from '@mui/material/ButtonBase'
import OutlinedInput from '@mui/material/OutlinedInput'
import Skeleton from '@mui/material/Skeleton'
import Typography from '@mui/material/Typography'
import { useMemo, useRef, useState } from 'react'
import { useNavigate } from 'react-router'
import type { Format } from '../../kinds/piece'
import type { Card, Goal, Template } from '../../kinds/studio'
import { Loaded } from '../parts/look/Loaded'
import { Title } from '../parts/look/Title'
import { ink, paper, plum } from '../parts/look/theme'
import { toast } from '../parts/look/toast'
import { Miniature } from '../parts/pages/Miniature'
import { found } from '../parts/words/find'
import { counted } from '../parts/words/say'
import { CardDrawing } from '../piece/CardDrawing'
import { api, type Trouble } from '../server/api'
import { cardDrawing, client, formats, refreshPieces, useAddress, useBoard, usePieceNames, useSite, useTemplates } from '../server/queries'
import { type Beginning, Chosen } from './Chosen'
import { FormatSketch } from './FormatSketch'

export const goals: Record<Goal, [string, string]> = {
  grow: ['Grow your list', 'Sign-ups for a newsletter or a club'],
  offer: ['Make an offer', 'A discount, free delivery, a code'],
  give: ['Give something away', 'A guide, a sample, a course'],
  announce: ['Announce', 'News, a date, opening hours'],
  ask: ['Ask for feedback', 'What people think, what they need'],
  guide: ['Guide visitors', 'To what suits them'],
  keep: ['Prevent exits', 'When visitors are about to leave'],
  quiz: ['Quiz', 'Questions that lead to a result'],
  poll: ['Poll', 'A vote, and how everyone voted'],
  reckon: ['Calculator', 'A cost, an amount, a saving'],
  draw: ['Prize draw', 'A wheel, a scratch card, boxes'],
  talk: ['Conversation', 'Questions and answers in a corner'],
}

const seasons = ['spring', 'summer', 'autumn', 'winter']

/** Where a piece begins: a template, chosen by goal, format and season. */
export function NewPiece() {
  const at = useAddress()
  const site = useSite()
  const starts = useTemplates()
  const pieces = usePieceNames().data ?? []
  const go = useNavigate()
  const [goal, setGoal] = useState<Goal | ''>('')
  const [format, setFormat] = useState<Format | ''>('')
  const [season, setSeason] = useState('')
  const [search, setSearch] = useState('')
  const [chosen, setChosen] = useState<Beginning | null>(null)
  const [copies, setCopies] = useState(false)
  const file = useRef<HTMLInputElement>(null)
  const all = starts.data?.templates ?? []
  const fits = (s: Template) =>
    (!goal || s.goal === goal) && (!format || s.format === format) && (!season || (season === 'plain' ? !s.season : s.season === season))
  const textOf = (s: Template) => `${s.name} ${s.tags} ${goals[s.goal].join(' ')} ${formats[s.format]} ${s.season ?? ''}`
  const shown = useMemo(() => found(all.filter(fits), search, textOf), [all, goal, format, season, search])
  const count = (of: (s: Template) => boolean) => all.filter(of).length
  const take = async (picked?: File | null) => {
    if (!picked) return
    try {
      const made = await api('POST /sites/:site/import', { site: site.id }, { body: picked })
      refreshPieces(site.id)
      go(at(`/pieces/${made.id}/compose`))
    } catch (e) {
      const t = e as Trouble
      toast(
        t.status === 413
          ? 'This file is larger than 48 MB.'
          : t.faults[0]
            ? `${t.faults[0].at && t.faults[0].at !== 'file' ? t.faults[0].at + ': ' : ''}${t.faults[0].message}`
            : t.message,
        true,
      )
    }
  }
  return (
    <Box component="main" sx={{ display: 'grid', gridTemplateColumns: '236px minmax(0, 1fr)', flex: 1, minHeight: 0 }}>
      <Title of="New piece" />
      <Box
        component="aside"
        aria-label="Filters"
        sx={{ background: paper.bench, borderRight: `1px solid ${paper.line}`, p: '20px 16px', display: 'grid', gap: '18px', alignContent: 'start' }}
      >
        <Group name="Goal">
          <Filter on={!goal} onClick={() => setGoal('')} name="All goals" count={all.length} />
          {(Object.keys(goals) as Goal[]).map(g => (
            <Filter key={g} on={goal === g} onClick={() => setGoal(g)} name={goals[g][0]} more={goals[g][1]} count={count(s => s.goal === g)} />
          ))}
        </Group>
        <Group name="Format">
          <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr 1fr', gap: '7px' }}>
            {(Object.keys(formats) as Format[]).map(f => (
              <ButtonBase
                key={f}
                aria-pressed={format === f}
                onClick={() => setFormat(format === f ? '' : f)}
                sx={{
                  display: 'block',
                  borderRadius: '7px',
                  border: `1px solid ${format === f ? plum.main : paper.line}`,
                  background: format === f ? plum.wash : paper.sheet,
                  p: '4px 4px 5px',
                  fontSize: 11.5,
                  color: format === f ? plum.main : ink[2],
                  fontWeight: format === f ? 650 : 450,
                }}
              >
                <FormatSketch format={f} />
                {formats[f]}
              </ButtonBase>
            ))}
          </Box>
        </Group>
        <Group name="Season">
          <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: '6px' }}>
            {['plain', ...seasons].map(s => (
              <ButtonBase
                key={s}
                aria-pressed={season === s}
                onClick={() => setSeason(season === s ? '' : s)}
                sx={{
                  borderRadius: '12px',
                  px: '10px',
                  py: '2px',
                  fontSize: 12.5,
                  border: `1px solid ${season === s ? plum.main : paper.strong}`,
                  background: season === s ? plum.wash : 'none',
                  color: season === s ? plum.main : ink[1],
                }}
              >
                {s === 'plain' ? 'all year' : s}
              </ButtonBase>
            ))}
          </Box>
        </Group>
      </Box>
      <Box sx={{ p: '20px 26px 40px', minWidth: 0 }}>
        <Box sx={{ display: 'flex', alignItems: 'flex-end', gap: 2, mb: 2, flexWrap: 'wrap' }}>
          <Box>
            <Typography variant="h1">Choose a template</Typography>
            <Typography color="textSecondary">
              {starts.data ? counted(shown.length, 'template') : 'Templates'}, in the style of {site.name}. Everything can be changed later.
            </Typography>
          </Box>
          <OutlinedInput
            size="small"
            value={search}
            onChange={e => setSearch(e.target.value)}
            placeholder="Search: guide, timer, winter…"
            inputProps={{ 'aria-label': 'Search templates', maxLength: 80 }}
            sx={{ ml: 'auto', width: 250 }}
          />
        </Box>
        <Box sx={{ display: 'flex', gap: 1, mb: 2.5, flexWrap: 'wrap' }}>
          <Button
            variant="outlined"
            onClick={() =>
              setChosen({
                name: 'Untitled',
                format: format || (goal === 'talk' ? 'chat' : goal === 'reckon' ? 'inline' : 'popup'),
                blank: goal === 'quiz' ? 'blank-quiz' : goal === 'reckon' ? 'blank-calculator' : '',
              })
            }
          >
            Blank
          </Button>
          <Button variant="outlined" onClick={() => setCopies(!copies)} aria-expanded={copies} disabled={!pieces.length}>
            From another piece
          </Button>
          <Button variant="outlined" onClick={() => file.current?.click()}>
            From a file
          </Button>
          <input
            ref={file}
            type="file"
            hidden
            accept=".zip,.json,application/zip,application/json"
            aria-label="Piece file"
            onChange={e => take(e.target.files?.[0]).then(() => file.current && (file.current.value = ''))}
          />
        </Box>
        {copies && <Copies onChoose={setChosen} />}
        {copies && (
          <Typography variant="h2" sx={{ mt: 4, mb: 2 }}>
            Templates
          </Typography>
        )}
        {!starts.data ? (
          <Loaded
            query={starts}
            what="the templates"
            placeholder={
              <Grid>
                {[0, 1, 2, 3, 4, 5].map(i => (
                  <Skeleton key={i} variant="rounded" height={210} />
                ))}
              </Grid>
            }
          >
            {() => null}
          </Loaded>
        ) : shown.length ? (
          <Grid>
            {shown.map(s => (
              <Tile
                key={s.id}
                name={s.name}
                about={`${formats[s.format]} · ${goals[s.goal][0].toLowerCase()}${s.season ? ` · ${s.season}` : ''}`}
                onClick={() => setChosen({ name: s.name, template: s.id, format: s.format, drawing: s.drawing, promises: s.promises })}
              >
                <Miniature drawing={s.drawing} width={248} height={156} lazy />
              </Tile>
            ))}
          </Grid>
        ) : (
          <Typography color="textSecondary">
            No template matches.{' '}
            <Box
              component="button"
              type="button"
              onClick={() => {
                setGoal('')
                setFormat('')
                setSeason('')
                setSearch('')
              }}
              sx={{ border: 0, background: 'none', p: 0, font: 'inherit', fontWeight: 600, color: plum.main, cursor: 'pointer' }}
            >
              Clear filters
            </Box>
            , or start from a blank piece: every format can hold every block.
          </Typography>
        )}
      </Box>
      {chosen && <Chosen from={chosen} frames={starts.data?.frames} onClose={() => setChosen(null)} />}
    </Box>
  )
}

/** The pieces of the site, to begin from one of them. */
function Copies({ onChoose }: { onChoose(from: Beginning): void }) {
  const board = useBoard()
  const site = useSite().id
  const choose = async (c: Card) => {
    const drawn = await client.fetchQuery(cardDrawing(site, c)).catch(() => undefined)
    onChoose({ name: c.name, copyOf: c.id, format: c.format, drawing: drawn?.drawing })
  }
  return (
    <Loaded query={board} what="the pieces" placeholder={<Skeleton variant="rounded" height={210} />}>
      {({ cards }) => (
        <Grid>
          {cards
            .filter(c => !c.unreadable)
            .map(c => (
              <Tile key={c.id} name={c.name} about={formats[c.format]} onClick={() => choose(c)}>
                <CardDrawing card={c} width={248} height={156} />
              </Tile>
            ))}
        </Grid>
      )}
    </Loaded>
  )
}

const Grid = ({ children }: { children: React.ReactNode }) => (
  <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(248px, 1fr))', gap: '20px 18px' }}>{children}</Box>
)

const Group = ({ name, children }: { name: string; children: React.ReactNode }) => (
  <Box role="group" aria-label={name}>
    <Typography variant="h4" component="h2" sx={{ mb: '8px' }}>
      {name}
    </Typography>
    {children}
  </Box>
)

function Filter({ name, more, count, on, onClick }: { name: string; more?: string; count: number; on: boolean; onClick(): void }) {
  return (
    <ButtonBase
      aria-pressed={on}
      onClick={onClick}
      title={more}
      sx={{
        display: 'flex',
        width: 'calc(100% + 16px)',
        mx: '-8px',
        justifyContent: 'space-between',
        p: '4px 8px',
        borderRadius: '6px',
        fontSize: 13.5,
        textAlign: 'start',
        fontWeight: on ? 650 : 450,
        background: on ? plum.wash : 'none',
        color: on ? plum.main : ink[1],
      }}
    >
      {name}
      <Box component="span" sx={{ color: ink[2], fontWeight: 400 }}>
        {count}
      </Box>
    </ButtonBase>
  )
}

function Tile({ name, about, onClick, children }: { name: string; about: string; onClick(): void; children: React.ReactNode }) {
  return (
    <ButtonBase
      onClick={onClick}
      sx={{ display: 'block', textAlign: 'start', borderRadius: '9px', '&:hover > div:first-of-type': { outline: `2px solid ${plum.main}` } }}
    >
      <Box sx={{ borderRadius: '9px', overflow: 'hidden', outline: `1px solid ${paper.line}`, '& > div': { width: '100% !important' } }}>{children}</Box>
      <Typography sx={{ fontWeight: 650, mt: '8px' }}>{name}</Typography>
      <Typography variant="body2" color="textSecondary">
        {about}
      </Typography>
    </ButtonBase>
  )
}
