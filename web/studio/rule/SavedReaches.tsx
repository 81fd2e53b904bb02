import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import ButtonBase from '@mui/material/ButtonBase'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import TextField from '@mui/material/TextField'
import Typography from '@mui/material/Typography'
import { createContext, type ReactNode, useContext, useState } from 'react'
import type { SavedReach } from '../../kinds/studio'
import { NameDialog } from '../parts/look/NameDialog'
import { apricot, brick, ink } from '../parts/look/theme'
import { counted } from '../parts/words/say'
import { api, type Trouble } from '../server/api'
import { outdated, setReaches, useSite } from '../server/queries'
import { BuilderContext, useBuilder } from './builder'
import type { Rule } from './kinds'
import { LineRow } from './LineRow'
import { rooted, writtenOut } from './rules'

/** Opens a saved reach to be changed; given by the builder around. */
export const ChangingContext = createContext<(saved: SavedReach) => void>(() => {})

/** A saved reach standing in a rule under its name. */
export function SavedLine({ id, at, lead, tail }: { id: string; at: string; lead: ReactNode; tail: ReactNode }) {
  const b = useBuilder()
  const change = useContext(ChangingContext)
  const saved = b.reaches.find(r => r.id === id)
  const faults = b.faults.filter(f => f.at.startsWith(at))
  return (
    <Box>
      <LineRow tail={tail}>
        {lead}
        <ButtonBase
          onClick={() => saved && change(saved)}
          title={saved?.phrase}
          sx={{
            background: apricot.wash,
            color: apricot.ink,
            borderRadius: '4px',
            border: `1px solid ${faults.length ? brick.main : '#eecbb2'}`,
            fontWeight: 600,
            fontSize: 14,
            px: '8px',
            py: '1px',
          }}
        >
          {saved?.name ?? 'a deleted reach'}
        </ButtonBase>
        {saved && (
          <Box component="span" sx={{ color: ink[2], fontSize: 12.5 }}>
            saved reach · used in {counted(saved.used.length, 'piece')}
          </Box>
        )}
      </LineRow>
      {faults.map(f => (
        <Typography key={f.message} variant="body2" role="alert" sx={{ pl: '14px', pb: '4px', color: brick.main, fontWeight: 600 }}>
          {f.message}
        </Typography>
      ))}
    </Box>
  )
}

/** Changes a saved reach, and says first whom that touches; children: the builder of its rule. */
export function ChangeReach({ saved, children, onClose }: { saved: SavedReach; children: ReactNode; onClose(): void }) {
  const b = useBuilder()
  const site = useSite().id
  const [name, setName] = useState(saved.name)
  const [rule, setRule] = useState<Rule>(rooted(saved.rule))
  const [trouble, setTrouble] = useState<Trouble | null>(null)
  const live = saved.used.filter(u => u.live)
  const act = async (method: 'PUT' | 'DELETE') => {
    const at = { site, reach: saved.id }
    try {
      setReaches(
        site,
        method === 'PUT' ? await api('PUT /sites/:site/reaches/:reach', at, { body: { name, rule } }) : await api('DELETE /sites/:site/reaches/:reach', at),
      )
      outdated('rehearsal', site)
      outdated('board', site)
      onClose()
    } catch (e) {
      setTrouble(e as Trouble)
    }
  }
  const faults = (trouble?.faults ?? []).flatMap(f => (f.at.startsWith('rule') ? [{ ...f, at: f.at.replace(/^rule\.?/, '') }] : []))
  return (
    <Dialog open onClose={onClose} maxWidth="md" fullWidth aria-labelledby="reach-title">
      <DialogTitle id="reach-title" variant="h2">
        Saved reach
      </DialogTitle>
      <DialogContent>
        <TextField
          label="Name"
          value={name}
          onChange={e => setName(e.target.value)}
          error={!!trouble?.faults.some(f => f.at === 'name')}
          helperText={trouble?.faults.find(f => f.at === 'name')?.message}
          sx={{ mt: 1, mb: 1.5 }}
        />
        <BuilderContext
          value={{
            ...b,
            rule,
            faults,
            counts: new Map(),
            total: 0,
            unrecorded: new Set(),
            unseen: new Set(),
            reaches: [],
            change: next => setRule(rooted(next)),
          }}
        >
          {children}
        </BuilderContext>
        <Box sx={{ mt: 2, p: '10px 12px', borderRadius: '8px', background: apricot.wash, color: apricot.ink }}>
          {saved.used.length ? (
            <>
              Used in {counted(saved.used.length, 'piece')}: {saved.used.map(u => `“${u.name}”${u.live ? ' (live)' : ''}`).join(', ')}.{' '}
              {live.length > 0 && 'Live pieces follow the change within a second.'}
            </>
          ) : (
            'Not used in any piece yet.'
          )}
        </Box>
        {trouble && !trouble.faults.length && (
          <Typography role="alert" sx={{ color: brick.main, fontWeight: 600, mt: 1 }}>
            {trouble.message}
          </Typography>
        )}
      </DialogContent>
      <DialogActions sx={{ p: 2 }}>
        <Button onClick={() => act('DELETE')} sx={{ mr: 'auto', color: brick.main }}>
          Delete
        </Button>
        <Button variant="outlined" onClick={onClose}>
          Cancel
        </Button>
        <Button variant="contained" onClick={() => act('PUT')}>
          {saved.used.length > 1 ? `Save for ${saved.used.length} pieces` : 'Save'}
        </Button>
      </DialogActions>
    </Dialog>
  )
}

const fresh = () => Array.from(crypto.getRandomValues(new Uint8Array(8)), n => n.toString(36).slice(-1)).join('')

/** Saves a rule or part of one under a name, to be used by other pieces too. */
export function NameReach({ rule, onClose, onSaved }: { rule: Rule; onClose(): void; onSaved(id: string): void }) {
  const b = useBuilder()
  const site = useSite().id
  const save = async (name: string) => {
    const id = 'r' + fresh()
    setReaches(site, await api('PUT /sites/:site/reaches/:reach', { site, reach: id }, { body: { name, rule: writtenOut(rule, b.reaches) } }))
    onSaved(id)
  }
  const about = 'A reach is a rule with a name. Other pieces can use it, and a change to it applies to all of them.'
  return <NameDialog title="Save as a reach" about={about} save={save} onClose={onClose} />
}
