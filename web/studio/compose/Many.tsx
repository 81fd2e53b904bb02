import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import { Row } from './controls'
import { alignSelected, duplicateSelected, groupSelected, hideSelected, lockSelected, removeSelected } from './view'

/** What can be done with several blocks at once. */
export function Many() {
  const act = (name: string, run: () => void) => (
    <Button key={name} variant="outlined" size="small" onClick={run} sx={{ fontSize: 13, py: '3px' }}>
      {name}
    </Button>
  )
  const groups = [
    ['Align', [act('Start', () => alignSelected('start')), act('Middle', () => alignSelected('center')), act('End', () => alignSelected('end'))]],
    ['Together', [act('Put into a box', groupSelected), act('Another each', duplicateSelected)]],
    ['Phones', [act('Hide there', () => hideSelected('phone')), act('Show everywhere', () => hideSelected())]],
    ['', [act('Lock', lockSelected), act('Take out', removeSelected)]],
  ] as const
  return groups.map(([name, acts]) => (
    <Row key={name} label={name}>
      {() => <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: '6px' }}>{acts}</Box>}
    </Row>
  ))
}
