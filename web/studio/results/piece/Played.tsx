import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import { useState } from 'react'
import type { PlayedQuestion, PlayedVariant } from '../../../kinds/studio'
import { saveCSV } from '../../parts/figures/csv'
import { LoadError } from '../../parts/look/Loaded'
import { Sheet } from '../../parts/look/Sheet'
import { apricot, ink, paper, variantColors } from '../../parts/look/theme'
import { between, count, counted, letters, percent } from '../../parts/words/say'
import { addressOf } from '../../server/api'
import { usePlayed, useSite } from '../../server/queries'
import { Answers } from './Answers'
import { Draw, drawRows } from './Draws'

const spans = [
  [0, 'all time'],
  [7, '7 days'],
  [28, '28 days'],
] as const

/** How far visitors got in a piece of several scenes, and what they answered. */
export function Played({ piece }: { piece: string }) {
  const site = useSite().id
  const [days, setDays] = useState(0)
  const [variant, setVariant] = useState(0)
  const played = usePlayed(piece, days)
  const v = played.data?.variants[Math.min(variant, played.data.variants.length - 1)]
  if (played.isError && !played.data)
    return (
      <Sheet sx={{ gridColumn: '1 / -1' }}>
        <LoadError what="the funnel" error={played.error} retry={played.refetch} />
      </Sheet>
    )
  // One scene that asks nothing to be counted has nothing to report.
  if (!v || (v.scenes.length < 2 && !v.questions.length)) return null
  const color = variantColors[variant % variantColors.length]
  const several = played.data!.variants.length > 1
  return (
    <>
      <Sheet sx={{ gridColumn: '1 / -1' }}>
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, mb: '14px', flexWrap: 'wrap' }}>
          <Typography variant="h3" component="h2">
            Funnel and answers
          </Typography>
          <Box sx={{ ml: 'auto', display: 'flex', gap: '6px' }} role="group" aria-label="Period">
            {spans.map(([n, name]) => (
              <Button key={n} size="small" variant={days === n ? 'contained' : 'outlined'} aria-pressed={days === n} onClick={() => setDays(n)}>
                {name}
              </Button>
            ))}
          </Box>
          {several && (
            <Box sx={{ display: 'flex', gap: '6px' }} role="group" aria-label="Variant">
              {played.data!.variants.map((x, i) => (
                <Button key={x.id} size="small" variant={variant === i ? 'contained' : 'outlined'} aria-pressed={variant === i} onClick={() => setVariant(i)}>
                  {letters[i]} {x.name}
                </Button>
              ))}
            </Box>
          )}
          <Button size="small" variant="outlined" onClick={() => download(v)}>
            Export CSV
          </Button>
        </Box>
        <Box
          sx={{
            display: 'grid',
            gridTemplateColumns: v.questions.length ? 'minmax(0, 1.05fr) minmax(0, 1fr)' : '1fr',
            gap: '34px',
            '@media (max-width: 1100px)': { gridTemplateColumns: '1fr' },
          }}
        >
          <Funnel v={v} color={color} />
          {v.questions.length > 0 && (
            <Box>
              {v.questions.map(q => (
                <Question key={q.key} q={q} color={color} confidence={played.data!.confidence} />
              ))}
            </Box>
          )}
        </Box>
        {v.draws.map(d => (
          <Draw
            key={d.key}
            draw={d}
            color={color}
            confidence={played.data!.confidence}
            csv={addressOf('GET /sites/:site/pieces/:piece/goes.csv', { site, piece })}
          />
        ))}
      </Sheet>
      <Answers site={site} piece={piece} days={days} variant={several ? v.id : ''} several={several} />
    </>
  )
}

function Funnel({ v, color }: { v: PlayedVariant; color: string }) {
  const top = Math.max(1, v.visitors, ...v.scenes.map(s => s.reached))
  const results = v.scenes.filter(s => s.kind === 'result')
  const through = v.scenes.filter(s => s.kind !== 'result')
  const bar = (part: number, of: string) => (
    <Box aria-hidden sx={{ height: 14, borderRadius: '4px', background: paper.line, overflow: 'hidden' }}>
      <Box data-hue sx={{ width: `${(100 * part) / top}%`, height: '100%', background: of, minWidth: part ? '2px' : 0 }} />
    </Box>
  )
  const row = {
    display: 'grid',
    gridTemplateColumns: 'minmax(110px, 1fr) minmax(60px, .9fr) 48px 212px',
    gap: '12px',
    alignItems: 'center',
    py: '5px',
    fontSize: 13.5,
  }
  const name = { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' } as const
  return (
    <Box>
      <Box sx={row}>
        <Box sx={name}>Visitors</Box>
        {bar(v.visitors, paper.strong)}
        <Box sx={{ textAlign: 'end', fontWeight: 650 }}>{count(v.visitors)}</Box>
        <Box sx={{ color: ink[2] }}>saw it</Box>
      </Box>
      {through.map((s, i) => {
        const gone = s.share ?? 0
        return (
          <Box key={s.id} sx={row} data-scene={s.id}>
            <Box sx={name} title={s.name}>
              {s.name}
            </Box>
            {bar(s.reached, color)}
            <Box sx={{ textAlign: 'end', fontWeight: 650 }}>{count(s.reached)}</Box>
            <Box sx={{ color: ink[2], lineHeight: 1.25 }}>
              {gone > 0 && s.kind !== 'thanks' && !s.gate ? (
                <Box component="span" sx={{ color: gone > 0.3 ? apricot.ink : ink[2] }}>
                  {percent(gone)} ({between(s.interval)}) left here
                </Box>
              ) : null}
              {s.gate?.share != null && (
                <Box component="span" sx={{ display: 'block' }} title={`${count(s.gate.gone)} of ${count(s.gate.came)}`}>
                  {percent(s.gate.share)} ({between(s.gate.interval)}) signed up
                </Box>
              )}
              {i === 0 && v.scenes.length > 1 && v.visitors > 0 && <div>{percent(Math.min(1, s.reached / v.visitors))} started</div>}
              {s.seconds !== null && <div>{Math.round(s.seconds)} s on average</div>}
            </Box>
          </Box>
        )
      })}
      {results.length > 0 && (
        <>
          <Typography variant="h4" component="h3" sx={{ mt: '16px', mb: '4px' }}>
            Results
          </Typography>
          {results.map(r => (
            <Box key={r.id} sx={row} data-scene={r.id}>
              <Box sx={name} title={r.name}>
                {r.name}
              </Box>
              {bar(r.reached, color)}
              <Box sx={{ textAlign: 'end', fontWeight: 650 }}>{count(r.reached)}</Box>
              <Box sx={{ color: ink[2] }}>{r.share === null ? 'none yet' : `${percent(r.share)} (${between(r.interval)})`}</Box>
            </Box>
          ))}
        </>
      )}
    </Box>
  )
}

function Question({ q, color, confidence }: { q: PlayedQuestion; color: string; confidence: number }) {
  const top = Math.max(0.05, ...q.choices.map(c => (q.answered ? c.interval[1] : 0)))
  return (
    <Box sx={{ mb: '18px' }} data-question={q.key}>
      <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 1, mb: '2px' }}>
        <Typography variant="h4" component="h3">
          {q.label}
        </Typography>
        <Typography variant="body2" color="textSecondary" sx={{ ml: 'auto', whiteSpace: 'nowrap' }}>
          {counted(q.answered, 'answer')}
          {q.first && ' · ranked first'}
          {q.answered > 0 && ` · ${Math.round(confidence * 100)} % bounds`}
        </Typography>
      </Box>
      {q.choices.map(c => (
        <Box
          key={c.id}
          sx={{
            display: 'grid',
            gridTemplateColumns: 'minmax(90px, 1fr) minmax(80px, 1.2fr) 44px 148px',
            gap: '10px',
            alignItems: 'center',
            fontSize: 13.5,
            py: '3px',
          }}
        >
          <Box sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }} title={c.label}>
            {c.label}
          </Box>
          <Box aria-hidden sx={{ position: 'relative', height: 12, borderRadius: '4px', background: paper.line }}>
            {c.share !== null && (
              <>
                <Box
                  data-hue
                  sx={{ position: 'absolute', inset: 0, right: 'auto', width: `${(100 * c.share) / top}%`, borderRadius: '4px', background: color }}
                />
                <Box
                  sx={{
                    position: 'absolute',
                    top: 5,
                    height: 2,
                    left: `${(100 * c.interval[0]) / top}%`,
                    width: `${(100 * (c.interval[1] - c.interval[0])) / top}%`,
                    background: ink[1],
                    opacity: 0.75,
                  }}
                />
              </>
            )}
          </Box>
          <Box sx={{ textAlign: 'end', fontWeight: 650 }}>{count(c.answers)}</Box>
          <Box sx={{ color: ink[2], whiteSpace: 'nowrap', fontSize: 13 }}>{c.share === null ? '' : `${percent(c.share)} (${between(c.interval)})`}</Box>
        </Box>
      ))}
      {q.uncounted > 0 && (
        <Typography variant="body2" color="textSecondary" sx={{ mt: '4px' }}>
          {counted(q.uncounted, 'more vote')} by visitors who are not counted: the result that visitors see has them, this report does not.
        </Typography>
      )}
    </Box>
  )
}

function download(v: PlayedVariant) {
  const results = v.scenes.reduce((n, s) => n + (s.kind === 'result' ? s.reached : 0), 0)
  const rows: (string | number | null)[][] = [
    ['what', 'name', 'choice', 'count', 'of', 'share', 'low', 'high', 'seconds', 'odds', 'left'],
    ['visitors', v.name, '', v.visitors, null, null, null, null, null],
    ...v.scenes.map(s => ['scene', s.name, '', s.reached, v.visitors, null, null, null, s.seconds]),
    ...v.scenes.flatMap(s => {
      if (s.share === null || s.kind === 'thanks') return []
      const [what, n, of] = s.kind === 'result' ? ['result', s.reached, results] : ['left here', s.reached - s.left, s.reached]
      return [[what, s.name, '', n, of, s.share, ...s.interval, null]]
    }),
    ...v.draws.flatMap(drawRows),
    ...v.questions.flatMap(q => q.choices.map(c => ['answer', q.label, c.label, c.answers, q.answered, c.share, c.interval[0], c.interval[1], null])),
  ]
  saveCSV('funnel.csv', rows)
}
