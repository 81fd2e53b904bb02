import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import FormControlLabel from '@mui/material/FormControlLabel'
import Popover from '@mui/material/Popover'
import Switch from '@mui/material/Switch'
import TextField from '@mui/material/TextField'
import Typography from '@mui/material/Typography'
import { useState } from 'react'
import type { OwnPage, Piece } from '../../kinds/piece'
import type { PictureInfo, PieceInfo } from '../../kinds/studio'
import { ChoosePicture } from '../library/ChoosePicture'
import { Sheet } from '../parts/look/Sheet'
import { ink, paper } from '../parts/look/theme'
import { change, useDraft } from '../piece/draft'
import { addressOf } from '../server/api'
import { usePictures, useSite } from '../server/queries'

/** The end of an address that a name gives. */
export const slug = (name: string) =>
  name
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 60)
    .replace(/-+$/, '') || 'page'

/** The picture that previews show unless another is chosen: the first that the piece itself shows, if it is one of the site's. */
function firstPicture(doc: Piece, pictures: PictureInfo[]): string {
  const first = /"picture":"([0-9a-f]{32})"/.exec(JSON.stringify(doc.split.variants[0].design))?.[1]
  return pictures.find(p => p.hash === first)?.hash ?? ''
}

/** The piece’s own page: its address, the preview of its link, and its QR code. */
export function OwnPageSheet({ info, faults: launching }: { info: PieceInfo; faults: { at: string; message: string }[] }) {
  const { doc, faults: saving } = useDraft()
  const site = useSite()
  const pictures = usePictures().data ?? []
  const page = doc?.page
  if (!doc) return null
  const set = (how: (p: OwnPage) => void) => change(d => void (d.page && how(d.page)), 'page')
  const faults = [...saving, ...launching]
  const faultAt = (key: string) => faults.find(f => f.at === `page.${key}`)?.message
  const live = info.state === 'live' ? info.live?.page : undefined
  return (
    <Sheet>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 2 }}>
        <Box sx={{ flex: 1 }}>
          <Typography variant="h3" component="h2">
            Own page
          </Typography>
          <Typography color="textSecondary">
            {site.pages
              ? 'An address to share as a link or print as a QR code. Same design, same results; its reach and frequency limits do not apply there.'
              : 'This server has no port for own pages: start it with --pages-port.'}
          </Typography>
        </Box>
        <FormControlLabel
          label={page ? 'On' : 'Off'}
          control={
            <Switch
              checked={!!page}
              disabled={!site.pages && !page}
              slotProps={{ input: { 'aria-label': 'Own page' } }}
              onChange={e => change(d => void (d.page = e.target.checked ? { address: slug(d.name), title: d.name } : undefined))}
            />
          }
        />
      </Box>
      {page && (
        <Box sx={{ display: 'grid', gridTemplateColumns: 'minmax(0, 1fr) 264px', gap: '22px', mt: '14px' }}>
          <Box sx={{ display: 'grid', gap: '14px', alignContent: 'start' }}>
            <TextField
              label="Address"
              value={page.address}
              error={!!faultAt('address')}
              helperText={faultAt('address') ?? `${site.pages}${page.address}`}
              onChange={e => set(p => void (p.address = e.target.value))}
              slotProps={{ htmlInput: { maxLength: 60, spellCheck: false }, formHelperText: { sx: { overflowWrap: 'anywhere' } } }}
            />
            <TextField
              label="Title"
              value={page.title}
              error={!!faultAt('title')}
              helperText={faultAt('title')}
              onChange={e => set(p => void (p.title = e.target.value))}
            />
            <TextField
              label="Description"
              value={page.description ?? ''}
              error={!!faultAt('description')}
              helperText={faultAt('description') ?? 'One or two sentences, shown below the title where the link is shared.'}
              multiline
              minRows={2}
              onChange={e => set(p => void (p.description = e.target.value || undefined))}
            />
            <TextField
              label="Language"
              value={page.language ?? ''}
              placeholder="en"
              error={!!faultAt('language')}
              helperText={faultAt('language') ?? 'A code such as en, de or pt-BR: for screen readers, and how numbers are written.'}
              onChange={e => set(p => void (p.language = e.target.value.trim() || undefined))}
              slotProps={{ inputLabel: { shrink: true } }}
              sx={{ maxWidth: 320 }}
            />
          </Box>
          <Box sx={{ display: 'grid', gap: '12px', alignContent: 'start' }}>
            <LinkPreview
              page={page}
              picture={page.picture || firstPicture(doc, pictures)}
              chosen={!!page.picture}
              onPicture={hash => set(p => void (p.picture = hash))}
            />
          </Box>
        </Box>
      )}
      {live && site.pages && <Shared address={live.address} pages={site.pages} site={site.id} changed={live.address !== page?.address} />}
      {page && !live && (
        <Typography color="textSecondary" sx={{ mt: '12px' }}>
          The link and its QR code appear here once the piece is live.
        </Typography>
      )}
    </Sheet>
  )
}

/** How a shared link looks elsewhere. */
function LinkPreview({ page, picture, chosen, onPicture }: { page: OwnPage; picture: string; chosen: boolean; onPicture(hash?: string): void }) {
  const site = useSite()
  const [at, setAt] = useState<HTMLElement | null>(null)
  return (
    <>
      <Box
        component="figure"
        aria-label="Link preview"
        sx={{ m: 0, border: `1px solid ${paper.line}`, borderRadius: '9px', overflow: 'hidden', background: paper.bench }}
      >
        {picture ? (
          <Box component="img" src={`/v1/pictures/${picture}`} alt="" sx={{ display: 'block', width: '100%', aspectRatio: '1.91', objectFit: 'cover' }} />
        ) : (
          <Box sx={{ aspectRatio: '1.91', display: 'grid', placeItems: 'center', color: ink[2], background: paper.page, fontSize: 13 }}>No picture yet</Box>
        )}
        <Box sx={{ p: '9px 12px 11px' }}>
          <Box sx={{ fontSize: 12, color: ink[2], overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
            {new URL(site.pages || location.href).host}
          </Box>
          <Box sx={{ fontWeight: 650, lineHeight: 1.3, overflowWrap: 'anywhere' }}>{page.title}</Box>
          {page.description && <Box sx={{ fontSize: 13, color: ink[2], overflowWrap: 'anywhere' }}>{page.description}</Box>}
        </Box>
      </Box>
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Button variant="outlined" size="small" onClick={e => setAt(e.currentTarget)}>
          {picture ? 'Change picture' : 'Choose a picture'}
        </Button>
        {chosen && (
          <Button size="small" onClick={() => onPicture(undefined)}>
            Remove
          </Button>
        )}
      </Box>
      <Popover
        open={!!at}
        anchorEl={at}
        onClose={() => setAt(null)}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'left' }}
        slotProps={{ paper: { sx: { width: 320, pt: '12px' } } }}
      >
        <ChoosePicture
          value={page.picture ?? ''}
          onChoose={p => {
            onPicture(p.hash)
            setAt(null)
          }}
        />
      </Popover>
    </>
  )
}

/** The link of a page that is live, and its QR code. */
function Shared({ address, pages, site, changed }: { address: string; pages: string; site: number; changed: boolean }) {
  const [copied, setCopied] = useState('')
  const link = pages + address
  const qr = addressOf('GET /sites/:site/qr', { site }, { address })
  const copy = () =>
    navigator.clipboard.writeText(link).then(
      () => setCopied('Copied'),
      () => setCopied('Select the link and copy it.'),
    )
  return (
    <Box sx={{ display: 'flex', gap: '18px', alignItems: 'center', borderTop: `1px solid ${paper.line}`, mt: '16px', pt: '14px' }}>
      <Box
        component="img"
        src={qr}
        alt={`QR code of ${link}`}
        sx={{ width: 112, height: 112, flex: 'none', border: `1px solid ${paper.line}`, borderRadius: '6px', background: '#fff' }}
      />
      <Box sx={{ flex: 1, minWidth: 0 }}>
        <Box sx={{ color: ink[2], fontSize: 13 }}>{changed ? 'Live now, until the changes are launched:' : 'Live at'}</Box>
        <Box component="a" href={link} target="_blank" rel="noopener" sx={{ fontWeight: 600, overflowWrap: 'anywhere' }}>
          {link}
        </Box>
        <Box sx={{ display: 'flex', gap: 1, mt: '8px', alignItems: 'center', flexWrap: 'wrap' }}>
          <Button variant="outlined" size="small" onClick={copy}>
            Copy link
          </Button>
          <Button variant="outlined" size="small" href={qr} download={`${address}.svg`}>
            QR code as SVG
          </Button>
          <Button variant="outlined" size="small" href={`${qr}&form=png`} download={`${address}.png`}>
            As PNG
          </Button>
          <Box role="status" sx={{ color: ink[2], fontSize: 13 }}>
            {copied}
          </Box>
        </Box>
        <Box sx={{ color: ink[2], fontSize: 13, mt: '8px' }}>
          On your site, a link to this address opens the piece on the page itself where possible, and leads here otherwise. A button with{' '}
          <code>data-gobbet-open="{address}"</code> opens it too.
        </Box>
      </Box>
    </Box>
  )
}
