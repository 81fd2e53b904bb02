import { useQuery } from '@tanstack/react-query'
import { useMemo } from 'react'
import type { Design, Drawing, Piece } from '../../kinds/piece'
import { api } from '../server/api'
import { useSite } from '../server/queries'

/** How a design sits: as its variant does, or else as the piece. */
export function sitsAs(doc: Piece, design: Design): Pick<Piece, 'format' | 'phone_format'> {
  const own = doc.split.variants.find(v => v.design === design)
  const { format, phone_format } = own?.format ? own : doc
  return { format: format!, phone_format }
}

/** A design as the renderer takes it. */
export const drawingOf = (doc: Piece, design: Design, kit: Drawing['kit']): Drawing => ({
  version: doc.version,
  ...sitsAs(doc, design),
  ...design,
  kit,
})

/** A design as the renderer takes it, with its values computed as soon as its formulas are read. */
export function useDrawing(doc: Piece, design: Design): Drawing {
  const { id, kit } = useSite()
  const asked = JSON.stringify({ formulas: design.formulas ?? [], inputs: [], samples: [] })
  const read = useQuery({
    queryKey: ['live', id, asked],
    queryFn: ({ signal }) => api('POST /sites/:site/reckon', { site: id }, { body: JSON.parse(asked), signal }),
    enabled: !!design.formulas?.length,
    placeholderData: before => before,
    staleTime: Number.POSITIVE_INFINITY,
  })
  const live = design.formulas?.length ? read.data?.live : undefined
  return useMemo(() => ({ ...drawingOf(doc, design, kit), live }), [doc, design, kit, live])
}
