import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import OutlinedInput from '@mui/material/OutlinedInput'
import Typography from '@mui/material/Typography'
import { Link as RouterLink } from 'react-router'
import { change, useDraft } from '../bench/draft'
import { Link } from '../compose/controls'
import { NumberField } from '../parts/fields'
import { brick, variantColors } from '../theme'
import { letter } from './Split'

/** Adds a version that is a copy of the last, to be changed. */
export const addVariant = () =>
  change(d => {
    const { variants } = d.split
    const copy = JSON.parse(JSON.stringify(variants[variants.length - 1]))
    variants.push({ ...copy, id: Math.random().toString(36).slice(2, 10), name: `Version ${letter(variants.length)}` })
  })

/** Who gets what: the versions, their shares, and where to change them. */
export function Shares({ piece, live }: { piece: string; live: boolean }) {
  const { doc, faults } = useDraft()
  if (!doc) return null
  const { variants } = doc.split
  const sum = variants.reduce((n, v) => n + v.share, 0)
  const wrong = faults.find(f => /^split\.variants(\[\d+\]\.(share|name))?$/.test(f.at))
  return (
    <>
      <Typography variant="h3" component="h2" sx={{ mb: '8px' }}>
        Who gets what
      </Typography>
      <Box
        role="img"
        aria-label={variants.map((v, i) => `${letter(i)} ${Math.round((100 * v.share) / (sum || 1))} %`).join(', ')}
        sx={{ display: 'flex', height: 10, borderRadius: '5px', overflow: 'hidden', mb: '12px', gap: '2px' }}
      >
        {variants.map((v, i) => (
          <Box key={v.id} style={{ flexGrow: v.share, background: variantColors[i % variantColors.length] }} />
        ))}
      </Box>
      {variants.map((v, i) => (
        <Box key={v.id} sx={{ display: 'grid', gridTemplateColumns: '18px minmax(0, 1fr) 74px 44px', gap: '8px', alignItems: 'center', mb: '3px' }}>
          <Box component="b" style={{ color: variantColors[i % variantColors.length] }}>
            {letter(i)}
          </Box>
          <OutlinedInput
            size="small"
            value={v.name}
            onChange={e => change(d => void (d.split.variants[i].name = e.target.value))}
            inputProps={{ 'aria-label': `Name of version ${letter(i)}`, maxLength: 120 }}
          />
          <NumberField
            label={`Share of version ${letter(i)}`}
            value={v.share}
            min={0}
            max={1000}
            onChange={n => change(d => void (d.split.variants[i].share = n))}
          />
          <Box sx={{ textAlign: 'end', color: 'text.secondary' }}>{sum ? Math.round((100 * v.share) / sum) : 0} %</Box>
          <Box sx={{ gridColumn: '2 / -1', display: 'flex', gap: 2, fontSize: 13, mb: '8px' }}>
            <Box
              component={RouterLink}
              to={`/pieces/${piece}/compose?variant=${i}`}
              sx={{ fontWeight: 600, textDecoration: 'none', '&:hover': { textDecoration: 'underline' } }}
            >
              Change its design
            </Box>
            {i > 0 && <Link onClick={() => change(d => void d.split.variants.splice(i, 1))}>Take it out</Link>}
          </Box>
        </Box>
      ))}
      {wrong && (
        <Typography variant="body2" role="alert" sx={{ color: brick.main, fontWeight: 600 }}>
          {wrong.at === 'split.variants' ? `The versions ${wrong.message}.` : wrong.message}
        </Typography>
      )}
      <Button variant="outlined" size="small" onClick={addVariant} disabled={variants.length >= 10} sx={{ mt: '4px' }}>
        Add a version
      </Button>
      <Typography variant="body2" color="textSecondary" sx={{ mt: '10px' }}>
        Who has seen a version keeps it, whatever the shares become.{live ? ' Changes here count once they go live.' : ''}
      </Typography>
    </>
  )
}
