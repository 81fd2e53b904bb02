import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogActions from '@mui/material/DialogActions'
import DialogContent from '@mui/material/DialogContent'
import DialogTitle from '@mui/material/DialogTitle'
import FormControlLabel from '@mui/material/FormControlLabel'
import InputBase from '@mui/material/InputBase'
import LinearProgress from '@mui/material/LinearProgress'
import OutlinedInput from '@mui/material/OutlinedInput'
import Skeleton from '@mui/material/Skeleton'
import Switch from '@mui/material/Switch'
import Typography from '@mui/material/Typography'
import { useEffect, useRef, useState } from 'react'
import type { PictureInfo } from '../../kinds/studio'
import { ChoosePicture } from '../library/ChoosePicture'
import { uploadFile, uploadPictureFile } from '../library/uploads'
import { Used } from '../parts/figures/Used'
import { confirm } from '../parts/look/Confirm'
import { Loaded } from '../parts/look/Loaded'
import { Sheet } from '../parts/look/Sheet'
import { Title } from '../parts/look/Title'
import { ink, paper } from '../parts/look/theme'
import { toast } from '../parts/look/toast'
import { counted } from '../parts/words/say'
import { api, type Trouble } from '../server/api'
import { outdated, useFiles, usePictures, useSite, useSnippets } from '../server/queries'
import { SitePage } from './SitePage'

type Kind = 'pictures' | 'files' | 'snippets'

const removals = {
  pictures: (site: number, hash: string) => api('DELETE /sites/:site/pictures/:hash', { site, hash }),
  files: (site: number, hash: string) => api('DELETE /sites/:site/files/:hash', { site, hash }),
  snippets: (site: number, id: string) => api('DELETE /sites/:site/snippets/:id', { site, id }),
}

const renamings = {
  pictures: (site: number, hash: string, name: string) => api('PUT /sites/:site/pictures/:hash', { site, hash }, { body: { name } }),
  files: (site: number, hash: string, name: string) => api('PUT /sites/:site/files/:hash', { site, hash }, { body: { name } }),
  snippets: (site: number, id: string, name: string) => api('PUT /sites/:site/snippets/:id', { site, id }, { body: { name } }),
}

const mostAtOnce = 30

/** What a site's pieces are made of: pictures, files and snippets. */
export function Library() {
  const site = useSite().id
  const pictures = usePictures()
  const files = useFiles()
  const snippets = useSnippets()
  const input = useRef<HTMLInputElement>(null)
  const [search, setSearch] = useState('')
  const [sending, setSending] = useState<{ name: string; sent: number; i: number; of: number } | null>(null)
  const [replacing, setReplacing] = useState<PictureInfo | null>(null)
  const found = <T extends { name: string }>(list: T[]) => list.filter(x => x.name.toLowerCase().includes(search.trim().toLowerCase()))
  const take = async (list: Iterable<File>) => {
    const some = [...list].slice(0, mostAtOnce)
    for (const [i, f] of some.entries()) {
      const progress = (sent: number) => setSending({ name: f.name, sent, i: i + 1, of: some.length })
      progress(0)
      try {
        await (/^image\/(png|jpeg|webp|gif)$/.test(f.type) ? uploadPictureFile(site, f, progress) : uploadFile(site, f, progress))
      } catch (e) {
        toast(`${f.name}: ${(e as Error).message}`, true)
      }
    }
    setSending(null)
  }
  useEffect(() => {
    const paste = (e: ClipboardEvent) => {
      if (e.clipboardData?.files.length) take(e.clipboardData.files)
    }
    document.addEventListener('paste', paste)
    return () => document.removeEventListener('paste', paste)
  })
  const change = async (kind: Kind, how: () => Promise<unknown>) => {
    try {
      await how()
    } catch (e) {
      toast((e as Trouble).faults?.[0] ? `The name ${(e as Trouble).faults[0].message}.` : (e as Trouble).message, true)
    }
    outdated(kind, site)
  }
  const remove = (kind: Kind, id: string, name: string) =>
    confirm({
      title: `Delete “${name}”?`,
      text: 'This cannot be undone.',
      verb: 'Delete',
      run: () => change(kind, () => removals[kind](site, id)),
    })
  const rename = (kind: Kind, id: string) => (name: string) => change(kind, () => renamings[kind](site, id, name))
  return (
    <SitePage wide>
      <Title of="Library" />
      <Box
        onDragOver={e => e.preventDefault()}
        onDrop={e => {
          e.preventDefault()
          take(e.dataTransfer.files)
        }}
        sx={{ display: 'grid', gap: '18px' }}
      >
        <Box sx={{ display: 'flex', gap: 1.5, alignItems: 'center', flexWrap: 'wrap' }}>
          <Button variant="contained" onClick={() => input.current?.click()}>
            Upload pictures or files
          </Button>
          <Typography color="textSecondary" variant="body2">
            Or drop them here, or paste one. Pictures are compressed without visible loss.
          </Typography>
          <OutlinedInput
            size="small"
            type="search"
            value={search}
            onChange={e => setSearch(e.target.value)}
            placeholder="Search by name"
            inputProps={{ 'aria-label': 'Search by name' }}
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
        {sending && (
          <Box role="status">
            {sending.sent < 1 ? `Uploading ${sending.name}, ${Math.round(100 * sending.sent)} %` : `Processing ${sending.name}`}
            {sending.of > 1 && ` · ${sending.i} of ${sending.of}`}
            <LinearProgress aria-label="Upload" variant={sending.sent < 1 ? 'determinate' : 'indeterminate'} value={100 * sending.sent} />
          </Box>
        )}
        <Sheet bitten>
          <Typography variant="h2" sx={{ mb: 1.5 }}>
            Pictures
          </Typography>
          <Loaded query={pictures} what="the pictures" placeholder={<Skeleton variant="rounded" height={210} />}>
            {list =>
              list.length === 0 ? (
                <Typography color="textSecondary">No pictures yet. Those you upload can be used in every piece.</Typography>
              ) : (
                <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(auto-fill, minmax(200px, 1fr))', gap: '18px' }}>
                  {found(list).map(p => (
                    <Box key={p.hash} data-picture={p.hash}>
                      <Box sx={{ aspectRatio: '4 / 3', borderRadius: '8px', overflow: 'hidden', border: `1px solid ${paper.line}`, background: paper.page }}>
                        <img src={`/v1/pictures/${p.hash}`} alt="" loading="lazy" style={{ width: '100%', height: '100%', objectFit: 'contain' }} />
                      </Box>
                      <Name name={p.name || 'Picture'} onRename={rename('pictures', p.hash)} />
                      <Typography variant="body2" color="textSecondary">
                        {p.width} × {p.height} · {Math.max(1, Math.round(p.bytes / 1024))} KB
                      </Typography>
                      <Used used={p.used} />
                      <Box sx={{ display: 'flex', gap: 1, mt: '4px' }}>
                        {p.used.length > 0 ? (
                          <Small onClick={() => setReplacing(p)}>Replace everywhere</Small>
                        ) : (
                          <Small onClick={() => remove('pictures', p.hash, p.name || 'Picture')}>Delete</Small>
                        )}
                      </Box>
                    </Box>
                  ))}
                </Box>
              )
            }
          </Loaded>
        </Sheet>
        <Sheet>
          <Typography variant="h2" sx={{ mb: 1 }}>
            Downloads and videos
          </Typography>
          <Loaded query={files} what="the files" placeholder={<Skeleton variant="rounded" height={80} />}>
            {list => (
              <>
                {list.length === 0 && <Typography color="textSecondary">No files yet. A button can offer any file here as a download.</Typography>}
                {found(list).map(f => (
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
                    <Name name={f.name} onRename={rename('files', f.hash)} />
                    <Box component="a" href={`/v1/files/${f.hash}/${encodeURIComponent(f.name)}`} sx={{ color: ink[2] }}>
                      {f.mime.startsWith('video/') ? 'video' : 'file'} · {Math.max(1, Math.round(f.bytes / 1024))} KB
                    </Box>
                    <Used used={f.used} />
                    {f.used.length === 0 ? <Small onClick={() => remove('files', f.hash, f.name)}>Delete</Small> : <span />}
                  </Box>
                ))}
              </>
            )}
          </Loaded>
        </Sheet>
        <Sheet>
          <Typography variant="h2" sx={{ mb: 1 }}>
            Snippets
          </Typography>
          <Loaded query={snippets} what="the snippets" placeholder={<Skeleton variant="rounded" height={80} />}>
            {list => (
              <>
                {list.length === 0 && (
                  <Typography color="textSecondary">No snippets yet. Right-click a block or a scene in Compose to save it for other pieces.</Typography>
                )}
                {found(list).map(s => (
                  <Box
                    key={s.id}
                    data-snippet={s.id}
                    sx={{ display: 'flex', gap: 2, py: '7px', borderTop: `1px solid ${paper.line}`, fontSize: 13.5, alignItems: 'center' }}
                  >
                    <Box sx={{ width: 320, maxWidth: '50%' }}>
                      <Name name={s.name} onRename={rename('snippets', s.id)} />
                    </Box>
                    <Box component="span" sx={{ color: ink[2] }}>
                      {s.kind}
                    </Box>
                    <Box sx={{ ml: 'auto' }}>
                      <Small onClick={() => remove('snippets', s.id, s.name)}>Delete</Small>
                    </Box>
                  </Box>
                ))}
              </>
            )}
          </Loaded>
        </Sheet>
      </Box>
      {replacing && <Replace picture={replacing} onClose={() => setReplacing(null)} />}
    </SitePage>
  )
}

/** A name that is changed where it is. */
function Name({ name, onRename }: { name: string; onRename(name: string): void }) {
  const [typed, setTyped] = useState<string | null>(null)
  return (
    <InputBase
      fullWidth
      value={typed ?? name}
      onChange={e => setTyped(e.target.value)}
      onBlur={() => {
        if (typed?.trim() && typed.trim() !== name) onRename(typed.trim())
        setTyped(null)
      }}
      onKeyDown={e => {
        if (e.key === 'Enter') (e.target as HTMLElement).blur()
        if (e.key === 'Escape') setTyped(null)
      }}
      inputProps={{ 'aria-label': `Name of ${name}`, maxLength: 120 }}
      sx={{
        '& input': {
          fontWeight: 600,
          fontSize: 13,
          p: '2px 5px',
          ml: '-5px',
          borderRadius: '4px',
          textOverflow: 'ellipsis',
          '&:hover': { background: paper.page },
          '&:focus': { background: '#fff' },
        },
      }}
    />
  )
}

const Small = ({ onClick, children }: { onClick(): void; children: React.ReactNode }) => (
  <Button size="small" onClick={onClick} sx={{ fontSize: 12.5, p: '1px 6px', ml: '-6px' }}>
    {children}
  </Button>
)

/** Replaces a picture in every piece, and in what is live where that is wanted. */
function Replace({ picture, onClose }: { picture: PictureInfo; onClose(): void }) {
  const site = useSite().id
  const liveIn = picture.used.filter(u => u.live)
  const [live, setLive] = useState(true)
  const [chosen, setChosen] = useState<PictureInfo | null>(null)
  const replace = async (from: string, to: string) => {
    const body = { with: to, live: live && liveIn.length > 0 }
    const done = await api('POST /sites/:site/pictures/:hash/replace', { site, hash: from }, { body })
    outdated()
    const there = done.pieces.filter(x => x.live).length
    return `${counted(done.pieces.length, 'piece')}${there ? `, ${there} of them live` : ''}`
  }
  const put = async () => {
    const from = picture.hash
    const to = chosen!
    const back = async () => {
      try {
        toast(`The picture before is back in ${await replace(to.hash, from)}.`)
      } catch (e) {
        toast((e as Trouble).message, true)
      }
    }
    try {
      // Where the new one was used before, replacing it again would take it from there too.
      toast(`Replaced in ${await replace(from, to.hash)}.`, false, to.used.length ? undefined : { name: 'Undo', run: back })
      onClose()
    } catch (e) {
      toast((e as Trouble).message, true)
    }
  }
  return (
    <Dialog open onClose={onClose} aria-labelledby="replace-title">
      <DialogTitle id="replace-title" variant="h2">
        Replace this picture everywhere
      </DialogTitle>
      <DialogContent sx={{ width: 400, px: 1 }}>
        <Typography color="textSecondary" sx={{ px: 2, mb: 1 }}>
          Used in {counted(picture.used.length, 'piece')}: {picture.used.map(u => u.name).join(', ')}.
        </Typography>
        <ChoosePicture value={chosen?.hash ?? picture.hash} onChoose={setChosen} />
        {liveIn.length > 0 && (
          <FormControlLabel
            sx={{ px: 2, mt: 1 }}
            control={<Switch checked={live} onChange={e => setLive(e.target.checked)} />}
            label={`Also in what is live (${counted(liveIn.length, 'piece')})`}
          />
        )}
      </DialogContent>
      <DialogActions sx={{ p: 2 }}>
        <Button variant="outlined" onClick={onClose}>
          Cancel
        </Button>
        <Button variant="contained" disabled={!chosen || chosen.hash === picture.hash} onClick={put}>
          Replace
        </Button>
      </DialogActions>
    </Dialog>
  )
}
