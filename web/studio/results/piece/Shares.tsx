import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import FormControlLabel from '@mui/material/FormControlLabel'
import OutlinedInput from '@mui/material/OutlinedInput'
import Switch from '@mui/material/Switch'
import Typography from '@mui/material/Typography'
import { useState } from 'react'
import { Link as RouterLink } from 'react-router'
import { clauses } from '../../../page/watch'
import { NumberField } from '../../parts/forms/fields'
import { TextButton } from '../../parts/look/TextButton'
import { brick, variantColors } from '../../parts/look/theme'
import { toast } from '../../parts/look/toast'
import { counted, letters } from '../../parts/words/say'
import { change, replace, useDraft } from '../../piece/draft'
import { OwnMoments } from '../../piece/OwnMoments'
import { formats, useAddress } from '../../server/queries'

/** Adds a variant that is a copy of the last, to be changed. */
export const addVariant = () =>
  change(d => {
    const { variants } = d.split
    const copy = JSON.parse(JSON.stringify(variants[variants.length - 1]))
    variants.push({ ...copy, id: Math.random().toString(36).slice(2, 10), name: `Variant ${letters[variants.length]}` })
  })

/** The traffic split: the variants, their shares, and what can be done with each. */
export function Shares({ piece, live, onWinner }: { piece: string; live: boolean; onWinner(i: number): void }) {
  const at = useAddress()
  const { doc, faults } = useDraft()
  const [moments, setMoments] = useState<number | null>(null)
  if (!doc) return null
  const { variants } = doc.split
  const sum = variants.reduce((n, v) => n + v.share, 0)
  const wrong = faults.find(f => /^split\.variants(\[\d+\]\.(share|name|format|phone_format|moments.*))?$/.test(f.at))
  return (
    <>
      <Typography variant="h3" component="h2" sx={{ mb: '8px' }}>
        Traffic split
      </Typography>
      {variants.length > 1 && (
        <Box
          role="img"
          aria-label={variants.map((v, i) => `${letters[i]} ${Math.round((100 * v.share) / (sum || 1))} %`).join(', ')}
          sx={{ display: 'flex', height: 10, borderRadius: '5px', overflow: 'hidden', mb: '12px', gap: '2px' }}
        >
          {variants.map((v, i) => (
            <Box key={v.id} data-hue style={{ flexGrow: v.share, background: variantColors[i % variantColors.length] }} />
          ))}
        </Box>
      )}
      {variants.map((v, i) => (
        <Box key={v.id} sx={{ display: 'grid', gridTemplateColumns: '18px minmax(0, 1fr) 74px 44px', gap: '8px', alignItems: 'center', mb: '3px' }}>
          <Box component="b" style={{ color: variantColors[i % variantColors.length] }}>
            {letters[i]}
          </Box>
          <OutlinedInput
            size="small"
            value={v.name}
            onChange={e => change(d => void (d.split.variants[i].name = e.target.value))}
            inputProps={{ 'aria-label': `Name of variant ${letters[i]}`, maxLength: 120 }}
          />
          {variants.length > 1 ? (
            <>
              <NumberField
                label={`Share of variant ${letters[i]}`}
                value={v.share}
                min={0}
                max={1000}
                onChange={n => change(d => void (d.split.variants[i].share = n))}
              />
              <Box sx={{ textAlign: 'end', color: 'text.secondary' }}>{sum ? Math.round((100 * v.share) / sum) : 0} %</Box>
            </>
          ) : (
            <Box sx={{ gridColumn: '3 / -1' }} />
          )}
          {variants.length > 1 && (v.format || v.moments) && (
            <Typography variant="body2" color="textSecondary" sx={{ gridColumn: '2 / -1' }}>
              {[v.format && formats[v.format], v.moments && `waits for ${counted(clauses(v.moments).length, 'moment')} of its own`].filter(Boolean).join(' · ')}
            </Typography>
          )}
          <Box sx={{ gridColumn: '2 / -1', display: 'flex', flexWrap: 'wrap', columnGap: 2, fontSize: 13, mb: '8px' }}>
            <Box
              component={RouterLink}
              to={at(`/pieces/${piece}/compose?variant=${i}`)}
              sx={{ fontWeight: 600, textDecoration: 'none', '&:hover': { textDecoration: 'underline' } }}
            >
              Edit design
            </Box>
            {variants.length > 1 && <TextButton onClick={() => setMoments(i)}>Moments</TextButton>}
            {variants.length > 1 && <TextButton onClick={() => onWinner(i)}>Keep only {letters[i]}</TextButton>}
            {variants.length > 1 && i > 0 && (
              <TextButton
                onClick={() => {
                  const before = useDraft.getState().doc!
                  change(d => void d.split.variants.splice(i, 1))
                  toast(`Variant ${letters[i]} deleted.`, false, { name: 'Undo', run: () => replace(before) })
                }}
              >
                Delete
              </TextButton>
            )}
          </Box>
        </Box>
      ))}
      {wrong && (
        <Typography variant="body2" role="alert" sx={{ color: brick.main, fontWeight: 600 }}>
          {wrong.at === 'split.variants' ? `The variants ${wrong.message}.` : wrong.message}
        </Typography>
      )}
      {/* With one variant the sentence above has the button. */}
      {variants.length > 1 && (
        <Button variant="outlined" size="small" onClick={addVariant} disabled={variants.length >= 8} sx={{ mt: '4px' }}>
          Add a variant
        </Button>
      )}
      <Box sx={{ display: 'grid', gridTemplateColumns: 'minmax(0, 1fr) 92px', gap: '8px', alignItems: 'center', mt: '12px' }}>
        <label htmlFor="held-back">Held back: shown nothing, to tell what the piece brings</label>
        <NumberField id="held-back" value={doc.split.held ?? 0} min={0} max={50} unit="%" onChange={n => change(d => void (d.split.held = n || undefined))} />
      </Box>
      {variants.length > 1 && (
        <FormControlLabel
          sx={{ mt: '6px', alignItems: 'flex-start', '& .MuiSwitch-root': { mt: '5px', mr: '6px' }, ml: 0 }}
          control={<Switch checked={!!doc.split.follow} onChange={(_, on) => change(d => void (d.split.follow = on || undefined))} />}
          label={
            <>
              Follow the winner
              <Typography variant="body2" color="textSecondary">
                Shares move to the better variant once a day; each keeps 10 %. It loses fewer conversions and takes longer to be sure.
              </Typography>
            </>
          }
        />
      )}
      <Typography variant="body2" color="textSecondary" sx={{ mt: '10px' }}>
        Visitors who have seen a variant keep it when shares change.{live ? ' Changes take effect when you launch them.' : ''}
      </Typography>
      {moments !== null && <OwnMoments i={moments} onClose={() => setMoments(null)} />}
    </>
  )
}
