import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import { type Action, applies, nameOf } from '../../../parts/keys/actions'
import { alignments, duplicate, group, lock, remove, type Selection, selection, visibility } from '../../commands/actions'
import { Row } from '../controls/controls'

const groups: readonly (readonly [string, readonly Action<Selection>[]])[] = [
  ['Align', alignments],
  ['Arrange', [group, duplicate]],
  ['Devices', visibility],
  ['', [lock, remove]],
]

/** What can be done with several blocks at once. */
export function SeveralSettings() {
  const on = selection()
  return groups.map(([name, actions]) => (
    <Row key={name} label={name}>
      {() => (
        <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: '6px' }}>
          {actions
            .filter(a => applies(a, on))
            .map(a => (
              <Button key={nameOf(a, on)} variant="outlined" size="small" onClick={() => a.run(on)} sx={{ fontSize: 13, py: '3px' }}>
                {nameOf(a, on)}
              </Button>
            ))}
        </Box>
      )}
    </Row>
  ))
}
