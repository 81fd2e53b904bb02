import HistoryIcon from '@mui/icons-material/History'
import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import ButtonBase from '@mui/material/ButtonBase'
import CircularProgress from '@mui/material/CircularProgress'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import IconButton from '@mui/material/IconButton'
import MenuItem from '@mui/material/MenuItem'
import Select from '@mui/material/Select'
import Tooltip from '@mui/material/Tooltip'
import Typography from '@mui/material/Typography'
import { useState } from 'react'
import type { Piece } from '../../../kinds/piece'
import type { Kit } from '../../../kinds/style'
import { Loaded } from '../../parts/look/Loaded'
import { ink, paper, plum } from '../../parts/look/theme'
import { toast } from '../../parts/look/toast'
import { Miniature } from '../../parts/pages/Miniature'
import { moment } from '../../parts/words/time'
import { replace, save, useDraft } from '../../piece/draft'
import { drawingOf } from '../../piece/drawing'
import { usePieceID, useSite, useVersions } from '../../server/queries'
import { useView } from '../commands/view'

/** Earlier drafts of the piece, to be compared and restored. */
export function VersionHistory() {
  const [open, setOpen] = useState(false)
  return (
    <>
      <Tooltip title="Version history">
        <IconButton
          size="small"
          aria-label="Version history"
          onClick={() => {
            save()
            setOpen(true)
          }}
        >
          <HistoryIcon fontSize="small" />
        </IconButton>
      </Tooltip>
      {open && <Chooser onClose={() => setOpen(false)} />}
    </>
  )
}

function Chooser({ onClose }: { onClose(): void }) {
  const piece = usePieceID()
  const versions = useVersions(piece)
  const doc = useDraft(s => s.doc)!
  const { kit } = useSite()
  const [chosen, setChosen] = useState<number | null>(null)
  const [beside, setBeside] = useState<number | null>(null)
  const list = versions.data ?? []
  const one = list.find(v => v.version === chosen)
  const other = list.find(v => v.version === beside && beside !== chosen)
  return (
    <Dialog open onClose={onClose} maxWidth="lg" fullWidth aria-labelledby="versions-title">
      <DialogTitle id="versions-title" variant="h2">
        Version history
      </DialogTitle>
      <DialogContent sx={{ display: 'grid', gridTemplateColumns: one ? '230px 1fr' : '1fr', gap: 2, minHeight: 360 }}>
        {!versions.data ? (
          <Loaded query={versions} what="the versions" placeholder={<CircularProgress aria-label="Loading" sx={{ m: 'auto' }} />}>
            {() => null}
          </Loaded>
        ) : list.length === 0 ? (
          <Typography color="textSecondary">No earlier versions yet. A version is saved every few minutes of work, and at every launch.</Typography>
        ) : (
          <Box
            role="listbox"
            aria-label="Versions"
            sx={{
              display: 'grid',
              gridTemplateColumns: one ? '1fr' : 'repeat(auto-fill, 230px)',
              gap: '14px',
              alignContent: 'start',
              overflowY: 'auto',
              maxHeight: '60vh',
              p: '4px',
            }}
          >
            {list.map(v => (
              <ButtonBase
                key={v.version}
                role="option"
                aria-selected={v.version === chosen}
                onClick={() => setChosen(v.version)}
                sx={{
                  display: 'block',
                  textAlign: 'start',
                  borderRadius: '8px',
                  outline: v.version === chosen ? `2px solid ${plum.main}` : `1px solid ${paper.line}`,
                  overflow: 'hidden',
                }}
              >
                <Miniature drawing={picture(v.draft, kit)} width={228} height={128} />
                <Box sx={{ p: '6px 9px', fontSize: 12.5 }}>
                  <b>Draft {v.version}</b>
                  {v.launched && ' · launched'}
                  <Box sx={{ color: ink[2] }}>{moment(v.saved_at)}</Box>
                </Box>
              </ButtonBase>
            ))}
          </Box>
        )}
        {one && (
          <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 2, alignContent: 'start' }}>
            <Box component="section">
              <Typography variant="h3" sx={{ height: 36, pt: '8px', mb: 1 }}>
                Draft {one.version}
              </Typography>
              <Scenes of={one.draft} kit={kit} />
            </Box>
            <Box component="section">
              <Select
                fullWidth
                displayEmpty
                value={other?.version ?? ''}
                onChange={e => setBeside(Number(e.target.value) || null)}
                inputProps={{ 'aria-label': 'Compare with' }}
                sx={{ height: 36, mb: 1 }}
              >
                <MenuItem value="">Current draft</MenuItem>
                {list
                  .filter(v => v.version !== chosen)
                  .map(v => (
                    <MenuItem key={v.version} value={v.version}>
                      Draft {v.version}, {moment(v.saved_at)}
                    </MenuItem>
                  ))}
              </Select>
              <Scenes of={other?.draft ?? doc} kit={kit} />
            </Box>
          </Box>
        )}
      </DialogContent>
      <DialogActions sx={{ p: 2 }}>
        <Button variant="outlined" onClick={onClose}>
          Cancel
        </Button>
        <Button
          variant="contained"
          disabled={!one}
          onClick={() => {
            replace(one!.draft)
            useView.setState({ variant: 0, selected: 'frame', also: [] })
            toast(`Draft ${one!.version} restored. Undo brings back what was there.`)
            onClose()
          }}
        >
          Restore this version
        </Button>
      </DialogActions>
    </Dialog>
  )
}

/** The scenes of a version, one under the other. */
function Scenes({ of, kit }: { of: Piece; kit: Kit }) {
  return inView(of).scenes.map(s => (
    <Box key={s.id} sx={{ mb: 1.5 }}>
      <Box sx={{ borderRadius: '8px', overflow: 'hidden', border: `1px solid ${paper.line}` }}>
        <Miniature drawing={picture(of, kit)} scene={s.id} width={446} height={240} />
      </Box>
      <Typography variant="body2" color="textSecondary">
        {s.name}
      </Typography>
    </Box>
  ))
}

const picture = (doc: Piece, kit: Kit) => drawingOf(doc, inView(doc), kit)

/** The design of the variant that is being looked at, or of the last where there were fewer. */
const inView = ({ split: { variants } }: Piece) => variants[Math.min(useView.getState().variant, variants.length - 1)].design
