import Box from '@mui/material/Box'
import type { ReactNode } from 'react'
import type { State } from '../../../kinds/studio'
import { apricot, brick, ink, moss } from './theme'

const looks = {
  live: { background: moss.wash, color: moss.ink },
  draft: { background: apricot.wash, color: apricot.ink },
  rest: { background: '#ece6da', color: ink[2] },
  bad: { background: brick.wash, color: '#8a3122' },
}

/** A small word on a wash of colour. */
export function Tag({ look, children }: { look: keyof typeof looks; children: ReactNode }) {
  return (
    <Box
      component="span"
      sx={{ display: 'inline-block', borderRadius: '4px', padding: '1px 7px', fontSize: 12, fontWeight: 600, whiteSpace: 'nowrap', ...looks[look] }}
    >
      {children}
    </Box>
  )
}

const states: Record<State, [keyof typeof looks, string]> = {
  live: ['live', 'Live'],
  draft: ['draft', 'Draft'],
  paused: ['rest', 'Paused'],
  over: ['rest', 'Ended'],
}

export const StateTag = ({ state }: { state: State }) => <Tag look={states[state][0]}>{states[state][1]}</Tag>
