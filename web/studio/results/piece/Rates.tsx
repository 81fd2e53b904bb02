import Box from '@mui/material/Box'
import Table from '@mui/material/Table'
import TableBody from '@mui/material/TableBody'
import TableCell from '@mui/material/TableCell'
import TableHead from '@mui/material/TableHead'
import TableRow from '@mui/material/TableRow'
import Typography from '@mui/material/Typography'
import type { SplitResult } from '../../../kinds/studio'
import { AxisHead, Interval, intervalTop } from '../../parts/figures/Interval'
import { TextButton } from '../../parts/look/TextButton'
import { brick, display, moss, variantColor } from '../../parts/look/theme'
import { between, count, money, percent, points } from '../../parts/words/say'
import { usePieceID } from '../../server/queries'
import type { What } from '../Behind'

/** The variants on one axis, and each against the first. */
export function Rates({ result, onOpen }: { result: SplitResult; onOpen(what: What): void }) {
  const { variants, report } = result
  const piece = usePieceID()
  const top = intervalTop(variants.filter(v => v.measure.visitors > 0).map(v => v.measure.interval))
  const valued = variants.some(v => v.mean !== null)
  const against = variants.length > 1
  return (
    <Table>
      <TableHead>
        <TableRow>
          <TableCell>Variant</TableCell>
          <TableCell align="right">Visitors</TableCell>
          {result.of_eligible && <TableCell align="right">Showings</TableCell>}
          <TableCell align="right">Conversions</TableCell>
          <TableCell align="right">Rate</TableCell>
          <TableCell sx={{ width: 190, pl: '14px' }}>
            <AxisHead top={top} />
          </TableCell>
          {valued && <TableCell align="right">Value per visitor</TableCell>}
          {against && <TableCell align="right">Difference to {variants[0].letter} (pp)</TableCell>}
        </TableRow>
      </TableHead>
      <TableBody>
        {variants.map((v, i) => {
          const { measure: m } = v
          const color = variantColor(v.letter)
          const c = report.comparisons[i - 1]
          const surely = !c ? 'inherit' : c.safe_interval[0] > 0 ? moss.ink : c.safe_interval[1] < 0 ? brick.main : 'inherit'
          return (
            <TableRow key={v.id} data-variant={v.letter}>
              <TableCell>
                <Box component="span" data-hue sx={{ display: 'inline-block', width: 11, height: 11, borderRadius: '3px', mr: '7px', background: color }} />
                <b>{v.letter}</b> {v.name}
                {v.gone && (
                  <Typography variant="body2" color="textSecondary">
                    no longer in the split
                  </Typography>
                )}
              </TableCell>
              <TableCell align="right">
                <Opens
                  n={m.visitors}
                  onOpen={() => onOpen({ title: `${v.letter}: visitors`, kind: result.of_eligible ? 'eligible' : 'shown', piece, variant: v.id })}
                />
              </TableCell>
              {result.of_eligible && <TableCell align="right">{count(m.showings)}</TableCell>}
              <TableCell align="right">
                {result.goal ? (
                  count(m.conversions)
                ) : (
                  <Opens n={m.conversions} onOpen={() => onOpen({ title: `${v.letter}: conversions`, kind: 'converted', piece, variant: v.id })} />
                )}
              </TableCell>
              <TableCell align="right">
                <Box component="b" sx={{ font: `620 17px ${display}`, whiteSpace: 'nowrap' }}>
                  {m.rate === null ? '–' : percent(m.rate)}
                </Box>
              </TableCell>
              <TableCell sx={{ pl: '14px' }}>
                {m.rate !== null && (
                  <>
                    <Interval value={m.rate} interval={m.interval} top={top} color={color} />
                    <Typography variant="body2" color="textSecondary" sx={{ lineHeight: 1.2 }}>
                      {between(m.interval)}
                    </Typography>
                  </>
                )}
              </TableCell>
              {valued && (
                <TableCell align="right" sx={{ whiteSpace: 'nowrap' }}>
                  {v.mean === null ? '–' : money(v.mean, result.currency, 2)}
                  {c?.value && c.value.difference_interval[0] !== null && (
                    <Typography variant="body2" color="textSecondary" sx={{ whiteSpace: 'nowrap' }}>
                      {`${money(c.value.difference_interval[0], result.currency, 2, true)} to ${money(c.value.difference_interval[1]!, result.currency, 2, true)}`}
                    </Typography>
                  )}
                </TableCell>
              )}
              {against && (
                <TableCell align="right">
                  {!c ? (
                    <Box component="span" sx={{ color: 'text.secondary' }}>
                      Baseline
                    </Box>
                  ) : c.difference === null ? (
                    '–'
                  ) : (
                    <>
                      <Box component="b" sx={{ color: surely }}>
                        {points(c.difference)}
                      </Box>
                      <Typography variant="body2" color="textSecondary" sx={{ whiteSpace: 'nowrap' }} title="Safe bounds: they hold however often you look">
                        {points(c.safe_interval[0])} to {points(c.safe_interval[1])}
                      </Typography>
                    </>
                  )}
                </TableCell>
              )}
            </TableRow>
          )
        })}
      </TableBody>
    </Table>
  )
}

/** A number that opens to the events behind it. */
const Opens = ({ n, onOpen }: { n: number; onOpen(): void }) => (n ? <TextButton onClick={onOpen}>{count(n)}</TextButton> : <>0</>)
