import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import ButtonBase from '@mui/material/ButtonBase'
import LinearProgress from '@mui/material/LinearProgress'
import OutlinedInput from '@mui/material/OutlinedInput'
import Typography from '@mui/material/Typography'
import { type DragEvent, useRef, useState } from 'react'
import type { PictureInfo } from '../../kinds/studio'
import { LoadError } from '../parts/look/Loaded'
import { brick, paper, plum } from '../parts/look/theme'
import { toast } from '../parts/look/toast'
import { usePictures, useSite } from '../server/queries'
import { nowhere, useRemember } from './landing'
import { uploadPictureFile } from './uploads'

/** The site's pictures to choose from, and an upload for another. */
export function ChoosePicture({ value, fault, onChoose }: { value: string; fault?: string; onChoose(p: PictureInfo): void }) {
  const site = useSite().id
  const query = usePictures()
  const pictures = query.data ?? []
  const remember = useRemember()
  const file = useRef<HTMLInputElement>(null)
  const [busy, setBusy] = useState(false)
  const [sent, setSent] = useState(0)
  const [wrong, setWrong] = useState('')
  const [search, setSearch] = useState('')
  const found = pictures.filter(p => p.name.toLowerCase().includes(search.trim().toLowerCase()))
  const upload = async (picked?: File | null) => {
    if (!picked) return
    const land = remember()
    setBusy(true)
    setSent(0)
    setWrong('')
    try {
      const made = await uploadPictureFile(site, picked, setSent)
      if (!land(() => onChoose(made))) toast(nowhere, true)
    } catch (e) {
      setWrong((e as Error).message)
    }
    setBusy(false)
  }
  const drop = (e: DragEvent) => {
    e.preventDefault()
    upload(e.dataTransfer.files[0])
  }
  return (
    <Box sx={{ px: '16px', pb: '6px' }} onDragOver={e => e.preventDefault()} onDrop={drop}>
      {query.isError && <LoadError what="the pictures" error={query.error} retry={query.refetch} />}
      {pictures.length > 9 && (
        <OutlinedInput
          size="small"
          fullWidth
          value={search}
          onChange={e => setSearch(e.target.value)}
          placeholder="Search pictures"
          inputProps={{ 'aria-label': 'Search pictures' }}
          sx={{ mb: '6px' }}
        />
      )}
      <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(3, 1fr)', gap: '6px', maxHeight: 190, overflowY: 'auto', p: '3px' }}>
        {found.slice(0, 60).map(p => (
          <ButtonBase
            key={p.hash}
            aria-label={`Choose ${p.name || 'picture'}`}
            aria-pressed={p.hash === value}
            onClick={() => onChoose(p)}
            sx={{
              borderRadius: '6px',
              overflow: 'hidden',
              aspectRatio: '4 / 3',
              outline: p.hash === value ? `2px solid ${plum.main}` : `1px solid ${paper.line}`,
              outlineOffset: p.hash === value ? 1 : 0,
            }}
          >
            <img src={`/v1/pictures/${p.hash}`} alt="" style={{ width: '100%', height: '100%', objectFit: 'cover' }} />
          </ButtonBase>
        ))}
      </Box>
      <Button variant="outlined" fullWidth size="small" onClick={() => file.current?.click()} disabled={busy} sx={{ mt: 1 }}>
        {busy ? (sent < 1 ? `Uploading… ${Math.round(100 * sent)} %` : 'Processing…') : 'Upload a picture, or drop one here'}
      </Button>
      {busy && <LinearProgress aria-label="Upload" variant={sent < 1 ? 'determinate' : 'indeterminate'} value={100 * sent} sx={{ mt: '2px' }} />}
      <input
        ref={file}
        type="file"
        hidden
        accept="image/png,image/jpeg,image/webp,image/gif"
        aria-label="Picture file"
        onChange={e => upload(e.target.files?.[0]).then(() => file.current && (file.current.value = ''))}
      />
      {(wrong || fault) && (
        <Typography variant="body2" role="alert" sx={{ color: brick.main, fontWeight: 600, mt: '4px' }}>
          {wrong || fault}
        </Typography>
      )}
    </Box>
  )
}
