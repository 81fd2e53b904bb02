import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import LinearProgress from '@mui/material/LinearProgress'
import MenuItem from '@mui/material/MenuItem'
import Select from '@mui/material/Select'
import Typography from '@mui/material/Typography'
import { useRef, useState } from 'react'
import type { FileInfo } from '../../kinds/studio'
import { LoadError } from '../parts/look/Loaded'
import { brick } from '../parts/look/theme'
import { toast } from '../parts/look/toast'
import { useFiles, useSite } from '../server/queries'
import { nowhere, useRemember } from './landing'
import { uploadFile } from './uploads'

/** The site's files to choose from, and an upload for another. */
export function ChooseFile({ value, video, fault, onChoose }: { value: string; video?: boolean; fault?: string; onChoose(f: FileInfo): void }) {
  const site = useSite().id
  const query = useFiles()
  const files = (query.data ?? []).filter(f => f.mime.startsWith('video/') === !!video)
  const remember = useRemember()
  const input = useRef<HTMLInputElement>(null)
  const [busy, setBusy] = useState(false)
  const [sent, setSent] = useState(0)
  const [wrong, setWrong] = useState('')
  const what = video ? 'video' : 'file'
  const upload = async (picked?: File | null) => {
    if (!picked) return
    const land = remember()
    setBusy(true)
    setSent(0)
    setWrong('')
    try {
      const made = await uploadFile(site, picked, setSent)
      if (video && !made.mime.startsWith('video/')) setWrong('This is not a video that browsers play. Use MP4 or WebM.')
      else if (!land(() => onChoose(made))) toast(nowhere, true)
    } catch (e) {
      setWrong((e as Error).message)
    }
    setBusy(false)
  }
  return (
    <Box
      sx={{ px: '16px', pb: '6px' }}
      onDragOver={e => e.preventDefault()}
      onDrop={e => {
        e.preventDefault()
        upload(e.dataTransfer.files[0])
      }}
    >
      {query.isError && <LoadError what="the files" error={query.error} retry={query.refetch} />}
      {files.length > 0 && (
        <Select
          fullWidth
          displayEmpty
          value={files.some(f => f.hash === value) ? value : ''}
          inputProps={{ 'aria-label': `Choose a ${what}` }}
          onChange={e => {
            const f = files.find(f => f.hash === e.target.value)
            if (f) onChoose(f)
          }}
        >
          <MenuItem value="" disabled>
            Choose a {what}
          </MenuItem>
          {files.map(f => (
            <MenuItem key={f.hash} value={f.hash}>
              {f.name}
            </MenuItem>
          ))}
        </Select>
      )}
      <Button variant="outlined" fullWidth size="small" onClick={() => input.current?.click()} disabled={busy} sx={{ mt: 1 }}>
        {busy ? (sent < 1 ? `Uploading… ${Math.round(100 * sent)} %` : 'Processing…') : `Upload a ${what}, or drop one here`}
      </Button>
      {busy && <LinearProgress aria-label="Upload" variant={sent < 1 ? 'determinate' : 'indeterminate'} value={100 * sent} sx={{ mt: '2px' }} />}
      <input
        ref={input}
        type="file"
        hidden
        accept={video ? 'video/mp4,video/webm' : undefined}
        aria-label={video ? 'Video file' : 'File to download'}
        onChange={e => upload(e.target.files?.[0]).then(() => input.current && (input.current.value = ''))}
      />
      {(wrong || fault) && (
        <Typography variant="body2" role="alert" sx={{ color: brick.main, fontWeight: 600, mt: '4px' }}>
          {wrong || fault}
        </Typography>
      )}
    </Box>
  )
}
