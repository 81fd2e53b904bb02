import Box from '@mui/material/Box'
import InputBase from '@mui/material/InputBase'
import List from '@mui/material/List'
import ListItemButton from '@mui/material/ListItemButton'
import ListSubheader from '@mui/material/ListSubheader'
import Popover from '@mui/material/Popover'
import Typography from '@mui/material/Typography'
import { useState } from 'react'
import { useBoard } from '../queries'
import { ink, paper } from '../theme'
import type { Fact } from './kinds'

const groups: Record<string, string> = {
  page: 'The page',
  source: 'Where they came from',
  device: 'Their device',
  place: 'Where they are',
  clock: 'The clock',
  visitor: 'The visitor',
  history: 'What they saw before',
  'site data': "The site's own data",
  moment: 'While the page is open',
}

interface Props {
  anchor: HTMLElement | null
  facts: Fact[]
  onPick(fact: Fact, name: string): void
  onClose(): void
}

/** Everything a condition may ask about, with search. */
export function FactPicker({ anchor, facts, onPick, onClose }: Props) {
  const [search, setSearch] = useState('')
  const cards = useBoard().data?.cards ?? []
  const offers = facts
    .filter(f => f.measured)
    .flatMap(f => {
      // A family is offered by its members where they are known.
      if (f.name.startsWith('history.')) return cards.map(c => ({ fact: f, name: f.name + c.id, says: f.says.replace('{}', `“${c.name}”`) }))
      if (f.name === 'page.query.') return [{ fact: f, name: 'page.query.ref', says: 'address parameter …' }]
      return [{ fact: f, name: f.name, says: saysOf(f) }]
    })
    .filter(o => (o.says + ' ' + o.name + ' ' + groups[o.fact.group]).toLowerCase().includes(search.trim().toLowerCase()))
  const close = () => {
    setSearch('')
    onClose()
  }
  const pick = (o: (typeof offers)[number]) => {
    onPick(o.fact, o.name)
    close()
  }
  return (
    <Popover
      open={!!anchor}
      anchorEl={anchor}
      onClose={close}
      anchorOrigin={{ vertical: 'bottom', horizontal: 'left' }}
      slotProps={{ paper: { sx: { width: 330, maxHeight: 430, display: 'flex', flexDirection: 'column' } } }}
    >
      <InputBase
        autoFocus
        value={search}
        placeholder="Find a condition"
        onChange={e => setSearch(e.target.value)}
        onKeyDown={e => {
          if (e.key !== 'Enter' || !offers[0]) return
          e.preventDefault() // or the press would go on to the button that has focus next
          pick(offers[0])
        }}
        inputProps={{ 'aria-label': 'Find a condition' }}
        sx={{ px: 2, py: 1, borderBottom: `1px solid ${paper.line}`, fontSize: 14 }}
      />
      <Box sx={{ overflowY: 'auto' }}>
        {Object.entries(groups).map(([key, name]) => {
          const here = offers.filter(o => o.fact.group === key)
          if (!here.length) return null
          return (
            <List
              key={key}
              dense
              disablePadding
              subheader={
                <ListSubheader sx={{ lineHeight: '30px', fontSize: 12, fontWeight: 600, color: ink[2], background: paper.bench }}>{name}</ListSubheader>
              }
            >
              {here.map(o => (
                <ListItemButton key={o.name} onClick={() => pick(o)} sx={{ fontSize: 13.5, py: '4px' }}>
                  {o.says}
                </ListItemButton>
              ))}
            </List>
          )
        })}
        {!offers.length && <Typography sx={{ p: 2, color: ink[2] }}>Nothing is called that.</Typography>}
      </Box>
    </Popover>
  )
}

/** How a fact is listed. */
export function saysOf(fact: Fact): string {
  const says = fact.says.replace('{} ', fact.kind === 'happening' ? 'something ' : '').replace('{}', '…')
  return fact.kind === 'counted' ? `${says} reaches … ${fact.unit}` : says
}
