import Box from '@mui/material/Box'
import { useQueries } from '@tanstack/react-query'
import type { Design } from '../../../../kinds/piece'
import { flat } from '../../../design/tree'
import { apricot } from '../../../parts/look/theme'
import { Row } from '../controls/controls'

const heavy = 700 // KB

/** The pictures of a design, by their hashes. */
export function picturesOf(design: Design): string[] {
  const found = [design.frame.behind?.picture, ...design.scenes.flatMap(s => flat(s.blocks).map(b => (b.kind === 'picture' ? b.picture : '')))]
  return [...new Set(found.filter((h): h is string => !!h))]
}

/** What a visitor's browser fetches for the design, beside the scripts it has once for all. */
export function PageWeight({ design }: { design: Design }) {
  const pictures = useQueries({
    queries: picturesOf(design).map(hash => ({
      queryKey: ['weight', hash],
      // Pictures are kept by the browser for good: this asks for each of them once.
      queryFn: async ({ signal }: { signal: AbortSignal }) => (await (await fetch(`/v1/pictures/${hash}`, { signal })).blob()).size,
      staleTime: Infinity,
    })),
  })
  const own = new Blob([JSON.stringify(design)]).size / 1024
  const images = pictures.reduce((sum, p) => sum + (p.data ?? 0), 0) / 1024
  const all = Math.round(own + images)
  return (
    <Row label="Size in KB">
      {() => (
        <span>
          <Box component="b" sx={{ color: all > heavy ? apricot.ink : undefined }}>
            {all}
          </Box>
          {pictures.length > 0 && `, of which pictures ${Math.round(images)}`}
        </span>
      )}
    </Row>
  )
}
