import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Typography from '@mui/material/Typography'
import { useQuery } from '@tanstack/react-query'
import { useDeferredValue } from 'react'
import type { PlayThrough } from '../../../../kinds/flow'
import type { Design, Drawing } from '../../../../kinds/piece'
import { apricot, ink, paper, plum } from '../../../parts/look/theme'
import { count, percent } from '../../../parts/words/say'
import { api, type Trouble } from '../../../server/api'
import { useSite } from '../../../server/queries'

/** The results of simulated visitors who answer at random. */
export function usePlayThrough(drawing: Drawing, seed: number) {
  const site = useSite().id
  const asked = useDeferredValue(JSON.stringify({ drawing, seed }))
  return useQuery<PlayThrough, Trouble>({
    queryKey: ['playthrough', site, asked],
    queryFn: ({ signal }) => api('POST /sites/:site/playthrough', { site }, { body: JSON.parse(asked), signal }),
    placeholderData: before => before,
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  })
}

/** Which results simulated visitors got, and in how many steps. */
export function PlayedThrough({
  design,
  played,
  narrow,
  onAgain,
}: {
  design: Design
  played: ReturnType<typeof usePlayThrough>
  /** Beside something else: the transcript comes first. */
  narrow?: boolean
  onAgain(): void
}) {
  const p = played.data
  const results = design.scenes.filter(s => s.kind === 'result')
  const most = p ? Math.max(1, ...results.map(r => p.results[r.id] ?? 0)) : 1
  const longest = p ? Math.max(1, ...p.steps) : 1
  return (
    <Box
      component="section"
      aria-labelledby="playthrough"
      sx={{ px: '24px', py: '14px', borderTop: `1px solid ${paper.line}`, overflowY: 'auto', minHeight: 0 }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', gap: '12px', mb: '8px' }}>
        <Typography id="playthrough" variant="h4" component="h3">
          {narrow ? 'Simulated visitor' : 'Simulation'}
        </Typography>
        <Typography variant="body2" color="textSecondary" hidden={narrow}>
          {p && !played.isError
            ? `${count(p.visitors)} simulated visitors who answer at random. Real visitors will differ.`
            : 'Simulated visitors who answer at random.'}
        </Typography>
        <Button size="small" variant="outlined" onClick={onAgain} sx={{ ml: 'auto' }}>
          Run again
        </Button>
      </Box>
      {played.isError ? (
        <Typography role="alert" variant="body2" sx={{ color: apricot.ink }}>
          {played.error.problem?.faults?.length ? 'The simulation cannot run: the design has errors. See the checks.' : 'The simulation could not be run.'}
        </Typography>
      ) : (
        p && (
          <Box sx={{ display: 'grid', gridTemplateColumns: narrow ? '1fr' : '1fr 1fr', gap: narrow ? '14px' : '34px', fontSize: 13.5 }}>
            {narrow && <Transcript said={p.transcript} />}
            <Box>
              {results.map(r => {
                const n = p.results[r.id] ?? 0
                return (
                  <Box
                    key={r.id}
                    data-result={r.id}
                    sx={{ display: 'grid', gridTemplateColumns: 'minmax(90px, 1fr) 1.4fr 92px', gap: '10px', alignItems: 'center', py: '2px' }}
                  >
                    <Box sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }} title={r.name}>
                      {r.name}
                    </Box>
                    <Box aria-hidden sx={{ height: 12, borderRadius: '4px', background: paper.line }}>
                      <Box data-hue sx={{ width: `${(100 * n) / most}%`, height: '100%', borderRadius: '4px', background: plum.main }} />
                    </Box>
                    <Box sx={{ textAlign: 'end', color: n ? ink[1] : apricot.ink }}>{n ? `${count(n)} · ${percent(n / p.visitors)}` : 'none'}</Box>
                  </Box>
                )
              })}
              {!results.length && !narrow && <Box sx={{ color: ink[2] }}>There is no result scene.</Box>}
              {p.lost > 0 && (
                <Box role="status" sx={{ mt: '6px', color: apricot.ink }}>
                  {count(p.lost)} reached no end
                  {p.rounds === p.lost ? ': they went in circles.' : p.rounds ? `, ${count(p.rounds)} of them in circles.` : ': their answers lead nowhere.'}
                </Box>
              )}
            </Box>
            <Box>
              <Box sx={{ display: 'flex', alignItems: 'flex-end', gap: '3px', height: 64 }} role="img" aria-label={stepsSaid(p)}>
                {p.steps.slice(0, 40).map((n, i) => (
                  <Box key={i} title={`${i}: ${count(n)}`} sx={{ flex: '0 1 26px', textAlign: 'center', fontSize: 11, color: ink[2] }}>
                    <Box sx={{ height: `${(46 * n) / longest}px`, background: plum.main, borderRadius: '3px 3px 0 0' }} />
                    {i}
                  </Box>
                ))}
              </Box>
              <Box sx={{ color: ink[2] }}>steps to the end</Box>
            </Box>
            {!narrow && (
              <Box sx={{ gridColumn: '1 / -1', maxHeight: 150, overflowY: 'auto' }}>
                <Transcript said={p.transcript} />
              </Box>
            )}
          </Box>
        )
      )}
    </Box>
  )
}

/** The conversation of one simulated visitor. */
const Transcript = ({ said }: { said: PlayThrough['transcript'] }) => (
  <Box role="log" aria-label="Transcript of one visitor" aria-live="off" sx={{ display: 'grid', gap: '3px' }}>
    {said.map((s, i) => (
      <Box key={i} sx={{ pl: s.visitor ? '28px' : 0, color: s.visitor ? plum.main : ink[1], fontWeight: s.visitor ? 650 : 400 }}>
        {s.visitor ? '› ' : '– '}
        {s.text}
      </Box>
    ))}
  </Box>
)

const stepsSaid = (p: PlayThrough) => p.steps.flatMap((n, i) => (n ? [`${i} steps: ${count(n)}`] : [])).join(', ') || 'Nobody reached the end.'
