import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import LinearProgress from '@mui/material/LinearProgress'
import OutlinedInput from '@mui/material/OutlinedInput'
import Typography from '@mui/material/Typography'
import { useDeferredValue, useRef, useState } from 'react'
import type { AnswerTable } from '../../../kinds/studio'
import { VirtualBody } from '../../parts/figures/Virtual'
import { LoadError } from '../../parts/look/Loaded'
import { Sheet } from '../../parts/look/Sheet'
import { ink, paper } from '../../parts/look/theme'
import { count, counted } from '../../parts/words/say'
import { moment } from '../../parts/words/time'
import { addressOf } from '../../server/api'
import { useAnswers } from '../../server/queries'

/** The answers of each visitor, the latest first, whether or not they left an email. */
export function Answers({ site, piece, days, variant, several }: { site: number; piece: string; days: number; variant: string; several: boolean }) {
  const [search, setSearch] = useState('')
  const scroller = useRef<HTMLDivElement>(null)
  const query = { q: useDeferredValue(search.trim()), days: String(days), variant }
  const answers = useAnswers(piece, query)
  const pages = answers.data?.pages ?? []
  const rows = pages.flatMap(p => p.rows)
  const columns: AnswerTable['columns'] = pages[0]?.columns ?? []
  if (!answers.isError && (!columns.length || (!rows.length && !search))) return null
  const cell = {
    p: '7px 12px',
    borderTop: `1px solid ${paper.line}`,
    maxWidth: 240,
    overflow: 'hidden',
    textOverflow: 'ellipsis',
    whiteSpace: 'nowrap',
  } as const
  return (
    <Sheet sx={{ gridColumn: '1 / -1', pb: '8px' }}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, mb: '10px', flexWrap: 'wrap' }}>
        <Typography variant="h3" component="h2">
          Answers
        </Typography>
        <OutlinedInput
          size="small"
          value={search}
          onChange={e => setSearch(e.target.value)}
          placeholder="Search answers and emails"
          inputProps={{ 'aria-label': 'Search answers and emails', maxLength: 200 }}
          sx={{ ml: 'auto', width: 260 }}
        />
        <Button size="small" variant="outlined" href={addressOf('GET /sites/:site/pieces/:piece/answers.csv', { site, piece }, query)} download>
          Export CSV
        </Button>
      </Box>
      {answers.isError && <LoadError what="the answers" error={answers.error} retry={answers.refetch} old={rows.length > 0} />}
      <Box ref={scroller} tabIndex={0} role="region" aria-label="Answers" sx={{ overflow: 'auto', maxHeight: 560, mx: '-20px' }} aria-busy={answers.isFetching}>
        <Box
          component="table"
          sx={{
            borderCollapse: 'collapse',
            fontSize: 13.5,
            width: '100%',
            '& th': {
              textAlign: 'start',
              fontWeight: 600,
              color: ink[2],
              p: '4px 12px',
              whiteSpace: 'nowrap',
              position: 'sticky',
              top: 0,
              background: paper.sheet,
            },
            '& th:first-of-type, & td:first-of-type': { pl: '20px' },
          }}
        >
          <thead>
            <tr>
              <th>When</th>
              <th>Email</th>
              <th>Last scene</th>
              {several && <th>Variant</th>}
              {columns.map(c => (
                <Box component="th" key={c.key} title={c.label} sx={{ maxWidth: 240, overflow: 'hidden', textOverflow: 'ellipsis' }}>
                  {c.label}
                </Box>
              ))}
            </tr>
          </thead>
          <VirtualBody rows={rows} scroller={scroller} height={35}>
            {r => (
              <tr key={r.id}>
                <Box component="td" sx={{ ...cell, color: ink[2] }}>
                  {moment(r.at)}
                </Box>
                <Box component="td" sx={cell} title={r.email}>
                  {r.email || <span style={{ color: ink[2] }}>no email</span>}
                </Box>
                <Box component="td" sx={cell} title={r.scene}>
                  {r.result || r.scene}
                </Box>
                {several && (
                  <Box component="td" sx={cell}>
                    {r.variant}
                  </Box>
                )}
                {columns.map(c => (
                  <Box component="td" key={c.key} sx={cell} title={r.answers[c.key]}>
                    {r.answers[c.key]}
                  </Box>
                ))}
              </tr>
            )}
          </VirtualBody>
        </Box>
      </Box>
      <Box sx={{ minHeight: 4 }}>{answers.isFetching && <LinearProgress aria-label="Loading" />}</Box>
      <Box role="status" sx={{ display: 'flex', alignItems: 'center', gap: 1, color: ink[2], fontSize: 13, mt: '4px' }}>
        {rows.length ? `${counted(rows.length, 'visitor')}${answers.hasNextPage ? ' so far' : ''}` : `No answers match “${search.trim()}”.`}
        {search && ` Searched the latest ${count(pages[0]?.searched ?? 0)}.`}
        {answers.hasNextPage && (
          <Button size="small" onClick={() => answers.fetchNextPage()}>
            Show more
          </Button>
        )}
      </Box>
    </Sheet>
  )
}
