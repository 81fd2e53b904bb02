import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import LinearProgress from '@mui/material/LinearProgress'
import OutlinedInput from '@mui/material/OutlinedInput'
import Typography from '@mui/material/Typography'
import { useEffect, useRef, useState } from 'react'
import { Link } from 'react-router'
import type { PictureInfo, Replaced, UsedIn } from '../../kinds/studio'
import { api, type Trouble } from '../api'
import { ChoosePicture } from '../compose/ChoosePicture'
import { takeFile, takePicture } from '../compose/uploads'
import { Sheet } from '../parts/Sheet'
import { counted } from '../parts/say'
import { tell } from '../parts/Told'
import { client, useFiles, useKeepsakes, usePictures, useSite } from '../queries'
import { ink, paper } from '../theme'
import { SitePlace } from './Places'

/** Everything a site's pieces are made of: pictures, files, and blocks kept for reuse. */
export function Library() {
  const site = useSite().id
  const pictures = usePictures().data ?? []
  const files = useFiles().data ?? []
  const kept = useKeepsakes().data ?? []
  const input = useRef<HTMLInputElement>(null)
  const [search, setSearch] = useState('')
  const [busy, setBusy] = useState(0)
  const [replacing, setReplacing] = useState<PictureInfo | null>(null)
  const found = <T extends { name: string }>(list: T[]) => list.filter(x => x.name.toLowerCase().includes(search.trim().toLowerCase()))
  const take = async (list: Iterable<File>) => {
    for (const f of [...list].slice(0, 30)) {
      setBusy(n => n + 1)
      try {
        await (/^image\/(png|jpeg|webp|gif)$/.test(f.type) ? takePicture(site, f) : takeFile(site, f))
      } catch (e) {
        tell(`${f.name}: ${(e as Error).message}`, true)
      }
      setBusy(n => n - 1)
    }
  }
  useEffect(() => {
    const paste = (e: ClipboardEvent) => {
      if (e.clipboardData?.files.length) take(e.clipboardData.files)
    }
    document.addEventListener('paste', paste)
    return () => document.removeEventListener('paste', paste)
  })
  const remove = async (kind: 'pictures' | 'files' | 'keepsakes', id: string) => {
    try {
      await api('DELETE', `/sites/${site}/${kind}/${id}`)
      client.invalidateQueries({ queryKey: [kind, site] })
    } catch (e) {
      tell((e as Trouble).message, true)
    }
  }
  return (
    <SitePlace wide>
      <Box
        onDragOver={e => e.preventDefault()}
        onDrop={e => {
          e.preventDefault()
          take(e.dataTransfer.files)
        }}
        sx={{ display: 'grid', gap: '18px' }}
      >
        <Box sx={{ display: 'flex', gap: 1.5, alignItems: 'center' }}>
          <Button variant="contained" onClick={() => input.current?.click()}>
            Add pictures or files
          </Button>
          <Typography color="textSecondary" variant="body2">
            Or drop them here, or paste one. Pictures are made smaller where that costs nothing.
          </Typography>
          <OutlinedInput
            size="small"
            value={search}
            onChange={e => setSearch(e.target.value)}
            placeholder="Find by name"
            inputProps={{ 'aria-label': 'Find by name' }}
            sx={{ ml: 'auto', width: 220 }}
          />
          <input
            ref={input}
            type="file"
            hidden
            multiple
            aria-label="Pictures or files"
            onChange={e => e.target.files && take(e.target.files).then(() => input.current && (input.current.value = ''))}
          />
        </Box>
        {busy > 0 && <LinearProgress aria-label="Taking in" />}
        <Sheet bitten>
          <Typography variant="h2" sx={{ mb: 1.5 }}>
            Pictures
          </Typography>
          {pictures.length === 0 ? (
            <Typography color="textSecondary">None yet. The first one you add is here for every piece.</Typography>
          ) : (
            <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(200px, 1fr))', gap: '18px' }}>
              {found(pictures).map(p => (
                <Box key={p.hash} data-picture={p.hash}>
                  <Box sx={{ aspectRatio: '4 / 3', borderRadius: '8px', overflow: 'hidden', border: `1px solid ${paper.line}`, background: paper.page }}>
                    <img src={`/v1/pictures/${p.hash}`} alt="" loading="lazy" style={{ width: '100%', height: '100%', objectFit: 'contain' }} />
                  </Box>
                  <Typography sx={{ fontWeight: 600, fontSize: 13, mt: '5px' }} noWrap title={p.name}>
                    {p.name || 'Picture'}
                  </Typography>
                  <Typography variant="body2" color="textSecondary">
                    {p.width} × {p.height} · {Math.round(p.bytes / 1024)} KB
                  </Typography>
                  <Used used={p.used} />
                  <Box sx={{ display: 'flex', gap: 1, mt: '4px' }}>
                    {p.used.length > 0 && <Small onClick={() => setReplacing(p)}>Replace everywhere</Small>}
                    {p.used.length === 0 && <Small onClick={() => remove('pictures', p.hash)}>Take out</Small>}
                  </Box>
                </Box>
              ))}
            </Box>
          )}
        </Sheet>
        <Sheet>
          <Typography variant="h2" sx={{ mb: 1 }}>
            Files to hand out, and videos
          </Typography>
          {files.length === 0 && <Typography color="textSecondary">None yet. A button can hand out any file that is here.</Typography>}
          {found(files).map(f => (
            <Box
              key={f.hash}
              sx={{
                display: 'grid',
                gridTemplateColumns: '1fr 110px 1fr auto',
                gap: 2,
                py: '7px',
                borderTop: `1px solid ${paper.line}`,
                alignItems: 'center',
                fontSize: 13.5,
              }}
            >
              <a href={`/v1/files/${f.hash}/${encodeURIComponent(f.name)}`}>{f.name}</a>
              <Box component="span" sx={{ color: ink[2] }}>
                {f.mime.startsWith('video/') ? 'video' : 'file'} · {Math.max(1, Math.round(f.bytes / 1024))} KB
              </Box>
              <Used used={f.used} />
              {f.used.length === 0 ? <Small onClick={() => remove('files', f.hash)}>Take out</Small> : <span />}
            </Box>
          ))}
        </Sheet>
        <Sheet>
          <Typography variant="h2" sx={{ mb: 1 }}>
            Blocks and scenes of your own
          </Typography>
          {kept.length === 0 && <Typography color="textSecondary">None yet. Right-click a block or a scene while composing, and keep it.</Typography>}
          {found(kept).map(k => (
            <Box key={k.id} sx={{ display: 'flex', gap: 2, py: '7px', borderTop: `1px solid ${paper.line}`, fontSize: 13.5 }}>
              {k.name}
              <Box component="span" sx={{ color: ink[2] }}>
                {k.kind}
              </Box>
              <Box sx={{ ml: 'auto' }}>
                <Small onClick={() => remove('keepsakes', k.id)}>Take out</Small>
              </Box>
            </Box>
          ))}
        </Sheet>
      </Box>
      {replacing && <Replace picture={replacing} onClose={() => setReplacing(null)} />}
    </SitePlace>
  )
}

const Small = ({ onClick, children }: { onClick(): void; children: React.ReactNode }) => (
  <Button size="small" onClick={onClick} sx={{ fontSize: 12.5, p: '1px 6px', ml: '-6px' }}>
    {children}
  </Button>
)

function Used({ used }: { used: UsedIn[] }) {
  if (!used.length) return <Box sx={{ fontSize: 12.5, color: ink[2] }}>not used</Box>
  return (
    <Box sx={{ fontSize: 12.5, color: ink[2] }}>
      in{' '}
      {used.slice(0, 3).map((u, i) => (
        <span key={u.id}>
          {i > 0 && ', '}
          <Link to={`/pieces/${u.id}/compose`}>{u.name}</Link>
        </span>
      ))}
      {used.length > 3 && ` and ${used.length - 3} more`}
    </Box>
  )
}

function Replace({ picture, onClose }: { picture: PictureInfo; onClose(): void }) {
  const site = useSite().id
  const put = async (p: PictureInfo) => {
    if (p.hash === picture.hash) return
    try {
      const done = await api<Replaced>('POST', `/sites/${site}/pictures/${picture.hash}/replace`, { with: p.hash })
      client.invalidateQueries()
      const live = done.pieces.filter(x => x.live).length
      tell(`Replaced in ${counted(done.pieces.length, 'draft')}.${live ? ` Launch ${counted(live, 'live piece')} again for visitors to see it.` : ''}`)
      onClose()
    } catch (e) {
      tell((e as Trouble).message, true)
    }
  }
  return (
    <Dialog open onClose={onClose} aria-labelledby="replace-title">
      <DialogTitle id="replace-title" variant="h2">
        Put another picture in its place
      </DialogTitle>
      <DialogContent sx={{ width: 380, px: 1 }}>
        <Typography color="textSecondary" sx={{ px: 2, mb: 1 }}>
          In {counted(picture.used.length, 'piece')}: {picture.used.map(u => u.name).join(', ')}.
        </Typography>
        <ChoosePicture value={picture.hash} onChoose={put} />
      </DialogContent>
    </Dialog>
  )
}
