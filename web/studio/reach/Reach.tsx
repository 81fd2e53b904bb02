import Box from '@mui/material/Box'
import Typography from '@mui/material/Typography'
import { change, useDraft } from '../bench/draft'
import { Desk } from '../parts/Desk'
import { Sheet } from '../parts/Sheet'
import { useFacts } from '../queries'
import { paper } from '../theme'
import { CapsLines } from './CapsLines'
import { RuleGroup } from './RuleGroup'
import { TryVisitor } from './TryVisitor'

/** When a piece may show: its rule as a sentence, its caps, and a visitor to try them on. */
export function Reach() {
  const { doc, phrase, faults, standing } = useDraft()
  const book = useFacts().data
  if (!doc || !book) return null
  const rule = 'all' in doc.rule || 'any' in doc.rule ? doc.rule : { all: [doc.rule] }
  return (
    <Desk>
      <Sheet sx={{ p: '18px 20px 20px' }}>
        <Typography variant="h2">Show it when</Typography>
        <RuleGroup rule={rule} at="rule" root onChange={next => change(d => void (d.rule = next), 'rule')} book={book} faults={faults} />
        <Box sx={{ borderTop: `1px solid ${paper.line}`, mt: '14px', pt: '12px' }}>
          <Typography variant="h3" component="h2">
            But no more than
          </Typography>
          <CapsLines caps={doc.caps} faults={faults} onChange={how => change(d => how(d.caps), 'caps')} />
        </Box>
        <Box sx={{ borderTop: `1px solid ${paper.line}`, mt: '14px', pt: '12px', color: 'text.secondary' }} aria-live="polite">
          {standing === 'faulty' ? 'Mend what is marked, and the rule is kept.' : `In words: show it when ${phrase}.`}
        </Box>
      </Sheet>
      <TryVisitor rule={doc.rule} book={book} />
    </Desk>
  )
}
