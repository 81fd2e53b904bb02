import Box from '@mui/material/Box'
import { ink, paper } from '../look/theme'

interface Props {
  /** What the table is of. */
  caption: string
  heads: readonly string[]
  rows: readonly (readonly string[])[]
}

/** The figures of a chart, for who would rather read them, or cannot see it. */
export function ChartTable({ caption, heads, rows }: Props) {
  return (
    <Box component="details" sx={{ mt: '4px', fontSize: 12.5, color: ink[2], '& summary': { cursor: 'pointer', minHeight: 24, lineHeight: '24px' } }}>
      <summary>Figures as a table</summary>
      <Box sx={{ maxHeight: 260, overflow: 'auto' }} tabIndex={0} role="group" aria-label={caption}>
        <Box
          component="table"
          sx={{
            borderCollapse: 'collapse',
            '& th, & td': { textAlign: 'start', p: '2px 14px 2px 0', whiteSpace: 'nowrap', borderTop: `1px solid ${paper.line}`, fontWeight: 450 },
            '& thead th': { fontWeight: 600, borderTop: 0 },
          }}
        >
          <caption hidden>{caption}</caption>
          <thead>
            <tr>
              {heads.map(head => (
                <th key={head} scope="col">
                  {head}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map(([first, ...rest]) => (
              <tr key={first}>
                <th scope="row">{first}</th>
                {rest.map((cell, i) => (
                  <td key={heads[i + 1]}>{cell}</td>
                ))}
              </tr>
            ))}
          </tbody>
        </Box>
      </Box>
    </Box>
  )
}
