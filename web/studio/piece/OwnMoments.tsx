import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import Typography from '@mui/material/Typography'
import { Loaded } from '../parts/look/Loaded'
import { letters } from '../parts/words/say'
import { type Builder, BuilderContext } from '../rule/builder'
import type { Rule } from '../rule/kinds'
import { RuleBuilder } from '../rule/RuleBuilder'
import { isGroup, partsOf, rooted } from '../rule/rules'
import { useFacts } from '../server/queries'
import { change, useDraft } from './draft'

/** The moments that one variant waits for beside what the reach says. */
export function OwnMoments({ i, onClose }: { i: number; onClose(): void }) {
  const { doc, faults } = useDraft()
  const facts = useFacts()
  const at = `split.variants[${i}].moments`
  const moments = doc?.split.variants[i]?.moments
  const put = (rule: Rule, belongsTo = '') =>
    change(d => {
      const v = d.split.variants[i]
      if (isGroup(rule) && !partsOf(rule).length) delete v.moments
      else v.moments = rule
    }, belongsTo)
  return (
    <Dialog open onClose={onClose} maxWidth="md" fullWidth aria-labelledby="moments-title">
      <DialogTitle id="moments-title" variant="h2">
        When variant {letters[i]} shows
      </DialogTitle>
      <DialogContent>
        <Typography variant="body2" color="textSecondary">
          Whom the piece is for stays in Reach, the same for all variants. Once the reach holds, this variant also waits for:
        </Typography>
        <Loaded query={facts} what="the conditions">
          {book => {
            const builder: Builder = {
              rule: rooted(moments ?? { all: [] }),
              book: { ...book, facts: book.facts.filter(f => f.group === 'moment' && f.name !== 'moment.click') },
              faults: faults.flatMap(f => (f.at.startsWith(at) ? [{ ...f, at: f.at.slice(at.length).replace(/^\./, '') }] : [])),
              reaches: [],
              counts: new Map(),
              total: 0,
              unrecorded: new Set(),
              unseen: new Set(),
              empty: 'Nothing of its own: it shows when the reach says.',
              change: put,
            }
            return (
              <BuilderContext value={builder}>
                <RuleBuilder />
              </BuilderContext>
            )
          }}
        </Loaded>
        <Typography variant="body2" color="textSecondary" sx={{ mt: '10px' }}>
          Variants that show at different moments are seen by different visitors. So each variant’s rate is of all visitors it could show to, whether or not
          they saw it.
        </Typography>
      </DialogContent>
      <DialogActions sx={{ p: 2 }}>
        <Button variant="contained" onClick={onClose}>
          Done
        </Button>
      </DialogActions>
    </Dialog>
  )
}
