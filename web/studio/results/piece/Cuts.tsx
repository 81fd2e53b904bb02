import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'
import Typography from '@mui/material/Typography'
import { useState } from 'react'
import type { SplitCuts } from '../../../kinds/studio'
import { Loaded } from '../../parts/look/Loaded'
import { Sheet } from '../../parts/look/Sheet'
import { apricot, variantColor } from '../../parts/look/theme'
import { count, cutName, cuts, percent, points } from '../../parts/words/say'
import { useSplitCuts } from '../../server/queries'

/** The comparison in parts of the visitors, with what looking at many parts costs. */
export function Cuts({ piece }: { piece: string }) {
  const [by, setBy] = useState<SplitCuts['by']>('device')
  const result = useSplitCuts(piece, by)
  return (
    <Sheet aria-label="By part of the visitors">
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, mb: '8px', flexWrap: 'wrap' }}>
        <Typography variant="h3" component="h2">
          By part of the visitors
        </Typography>
        <Box sx={{ ml: 'auto', display: 'flex', gap: '6px' }} role="group" aria-label="By">
          {cuts.map(([key, name]) => (
            <Button key={key} size="small" variant={by === key ? 'contained' : 'outlined'} aria-pressed={by === key} onClick={() => setBy(key)}>
              {name}
            </Button>
          ))}
        </Box>
      </Box>
      <Loaded query={result} what="the parts">
        {r =>
          r.cuts.length ? (
            <Parts r={r} />
          ) : (
            <Typography color="textSecondary">Nothing is known of these visitors’ {cuts.find(c => c[0] === by)![1].toLowerCase()} yet.</Typography>
          )
        }
      </Loaded>
    </Sheet>
  )
}

function Parts({ r }: { r: SplitCuts }) {
  const apart = r.cuts.some(c => c.differences.some(d => d.apart))
  return (
    <>
      <Box sx={{ overflowX: 'auto' }}>
        <Table>
          <TableHead>
            <TableRow>
              <TableCell>{cuts.find(c => c[0] === r.by)![1]}</TableCell>
              {r.variants.map(l => (
                <TableCell key={l} align="right">
                  <b style={{ color: variantColor(l) }}>{l}</b>
                </TableCell>
              ))}
              {r.variants.slice(1).map(l => (
                <TableCell key={l} align="right">
                  {l} to {r.variants[0]} (pp)
                </TableCell>
              ))}
            </TableRow>
          </TableHead>
          <TableBody>
            {r.cuts.map(c => (
              <TableRow key={c.value}>
                <TableCell sx={{ maxWidth: 220, overflow: 'hidden', textOverflow: 'ellipsis' }}>{cutName(r.by, c.value)}</TableCell>
                {c.rates.map((x, i) => (
                  <TableCell key={r.variants[i]} align="right">
                    <b>{x.rate === null ? '–' : percent(x.rate)}</b>
                    <Typography variant="body2" color="textSecondary">
                      {count(x.conversions)} of {count(x.visitors)}
                    </Typography>
                  </TableCell>
                ))}
                {c.differences.map((d, i) => (
                  <TableCell key={r.variants[i + 1]} align="right">
                    {d.difference === null ? (
                      '–'
                    ) : (
                      <>
                        <b style={{ color: d.apart ? apricot.ink : undefined }}>
                          {d.apart && <span title="Its bounds leave out 0">● </span>}
                          {points(d.difference)}
                        </b>
                        <Typography variant="body2" color="textSecondary" sx={{ whiteSpace: 'nowrap' }}>
                          {points(d.interval[0])} to {points(d.interval[1])}
                        </Typography>
                      </>
                    )}
                  </TableCell>
                ))}
              </TableRow>
            ))}
          </TableBody>
        </Table>
      </Box>
      {r.variants.length > 1 && (
        <Typography variant="body2" color="textSecondary" sx={{ mt: '8px' }}>
          Who looks at many parts finds something by chance. These bounds allow for all {r.cuts.length} rows together.{' '}
          {apart ? 'Where a difference has a ●, its bounds still leave out 0.' : 'None of the differences leaves out 0.'}
          {r.more > 0 && ` ${count(r.more)} smaller parts are not listed.`}
        </Typography>
      )}
    </>
  )
}
