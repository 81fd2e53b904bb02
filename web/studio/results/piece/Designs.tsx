import Box from '@mui/material/Box'
import MenuItem from '@mui/material/MenuItem'
import Select from '@mui/material/Select'
import Typography from '@mui/material/Typography'
import { useMemo, useState } from 'react'
import type { Piece, Variant } from '../../../kinds/piece'
import { Sheet } from '../../parts/look/Sheet'
import { paper, variantColors } from '../../parts/look/theme'
import { Miniature } from '../../parts/pages/Miniature'
import { letters } from '../../parts/words/say'
import { drawingOf, sitsAs } from '../../piece/drawing'
import { formats, useSite } from '../../server/queries'
import { differences } from './differs'

const most = 12

/** What differs between the first variant and another, in words and pictures. */
export function Designs({ doc }: { doc: Piece }) {
  const { variants } = doc.split
  const [chosen, setChosen] = useState(1)
  const at = Math.min(chosen, variants.length - 1)
  const kit = useSite().kit
  const pictures = useMemo(() => [0, at].map(i => drawingOf(doc, doc.split.variants[i].design, kit)), [doc, at, kit])
  const differ = useMemo(() => [...waysDiffer(doc, variants[0], variants[at]), ...differences(variants[0].design, variants[at].design)], [doc, variants, at])
  return (
    <Sheet aria-label="What differs">
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, mb: '10px' }}>
        <Typography variant="h3" component="h2">
          What differs
        </Typography>
        {variants.length > 2 && (
          <Select value={at} onChange={e => setChosen(Number(e.target.value))} sx={{ ml: 'auto' }} inputProps={{ 'aria-label': 'Variant to compare with A' }}>
            {variants.slice(1).map((v, i) => (
              <MenuItem key={v.id} value={i + 1}>
                {letters[i + 1]} {v.name}
              </MenuItem>
            ))}
          </Select>
        )}
      </Box>
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: '14px' }}>
        {[0, at].map((i, nth) => (
          <Box key={variants[i].id}>
            <Box sx={{ fontSize: 13, mb: '4px' }}>
              <b style={{ color: variantColors[i % variantColors.length] }}>{letters[i]}</b> {variants[i].name}
            </Box>
            <Box sx={{ border: `1px solid ${paper.line}`, borderRadius: '8px', overflow: 'hidden' }}>
              <Miniature drawing={pictures[nth]} width="fill" height={230} lazy />
            </Box>
          </Box>
        ))}
      </Box>
      <Box component="ul" sx={{ m: '12px 0 0', pl: '18px', fontSize: 13.5, '& li': { py: '1px' } }}>
        {differ.slice(0, most).map(d => (
          <li key={d}>{d}</li>
        ))}
        {differ.length > most && <li>and {differ.length - most} more</li>}
        {!differ.length && <li>Nothing: the designs are the same.</li>}
      </Box>
    </Sheet>
  )
}

/** What two variants have otherwise in how and when they show. */
function waysDiffer(doc: Piece, a: Variant, b: Variant): string[] {
  const all: string[] = []
  const [from, to] = [a, b].map(v => sitsAs(doc, v.design))
  if (from.format !== to.format) all.push(`Format: ${formats[from.format]} became ${formats[to.format]}`)
  if ((from.phone_format ?? from.format) !== (to.phone_format ?? to.format))
    all.push(`On phones: ${formats[from.phone_format ?? from.format]} became ${formats[to.phone_format ?? to.format]}`)
  if (JSON.stringify(a.moments) !== JSON.stringify(b.moments)) all.push('When it shows: other moments')
  return all
}
