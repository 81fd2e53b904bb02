import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import type { Card } from '../../kinds/studio'
import { Miniature } from '../parts/pages/Miniature'
import { cardDrawing, useSite } from '../server/queries'

/** A piece as its card shows it, asked for when it comes into view. */
export function CardDrawing({ card, width, height }: { card: Pick<Card, 'id' | 'drawn'>; width: number; height: number }) {
  const site = useSite().id
  const [seen, setSeen] = useState(false)
  const drawing = useQuery({ ...cardDrawing(site, card), enabled: seen, placeholderData: before => before }).data?.drawing
  return <Miniature drawing={drawing} width={width} height={height} lazy onSeen={() => setSeen(true)} />
}
