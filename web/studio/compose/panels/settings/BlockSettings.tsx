import Box from '@mui/material/Box'
import OutlinedInput from '@mui/material/OutlinedInput'
import { useRef } from 'react'
import type { Block, Columns, Heading, Icon, List, Picture, Text, Video, Words } from '../../../../kinds/piece'
import { paint } from '../../../../page/paint'
import { icons } from '../../../design/icons'
import { plain } from '../../../design/tree'
import { joined, lines as linesOf } from '../../../design/words'
import { ChooseFile } from '../../../library/ChooseFile'
import { ChoosePicture } from '../../../library/ChoosePicture'
import { ratioOf } from '../../../library/uploads'
import { TextButton } from '../../../parts/look/TextButton'
import { plum } from '../../../parts/look/theme'
import { useFault } from '../../../piece/draft'
import { useSite } from '../../../server/queries'
import { changeBlock, changeWhole } from '../../commands/change'
import { duplicateSelected, removeSelected } from '../../commands/selection'
import { setDevice, useSeen } from '../../commands/view'
import { Choice, More, Muted, Num, Reads, Row, Rule, Toggle, Typed } from '../controls/controls'
import { Ways } from '../controls/Ways'
import { ButtonSettings } from './ButtonSettings'
import { Drawn, type Parts } from './Drawn'
import { DrawSettings } from './DrawSettings'
import { FieldSettings } from './FieldSettings'
import { FocalPoint } from './FocalPoint'
import { CodeSource, LinkItems, TallyQuestion, TimerEnd } from './OtherSettings'

/** Offers phones a text or a picture of their own, and leads to it where they have one. */
function OnPhones({ what, own, onOwn }: { what: string; own: boolean; onOwn(): void }) {
  const { phone } = useSeen()
  if (own && phone) return null
  return (
    <Row label="">
      {() => (
        <TextButton
          onClick={() => {
            setDevice('phone')
            if (!own) onOwn()
          }}
        >
          {own ? `Edit the ${what} on phones` : `Different ${what} on phones`}
        </TextButton>
      )}
    </Row>
  )
}

/** A block's settings, few first. */
export function BlockSettings({ block, whole, at }: { block: Block; whole: Block; at: string }) {
  const content = contentKey(whole)
  const own = () =>
    changeWhole(block.id, b => {
      b.phone = { ...b.phone, [content!]: (whole as never)[content!] }
    })
  return (
    <>
      <Drawn block={block} at={at} parts={parts} />
      {content && <OnPhones what={content === 'picture' ? 'picture' : 'text'} own={content in (whole.phone ?? {})} onOwn={own} />}
      <More name="Space and devices">
        <Num k="above" label="Space above" unit="px" min={-48} max={160} usual={0} />
        <Choice
          label="Visible on"
          value={whole.hide ?? ''}
          options={[
            ['', 'All devices'],
            ['phone', 'All but phones'],
            ['desktop', 'Phones only'],
          ]}
          onChange={h =>
            changeWhole(block.id, b => {
              if (h) b.hide = h as 'phone'
              else delete b.hide
            })
          }
          k="hide"
        />
        <Toggle
          label="Locked"
          on={!!whole.locked}
          onChange={on =>
            changeWhole(block.id, b => {
              if (on) b.locked = true
              else delete b.locked
            })
          }
        />
      </More>
      <Rule />
      <Box sx={{ display: 'flex', gap: 2, px: '16px', pt: '2px', fontSize: 13 }}>
        <TextButton onClick={duplicateSelected}>Duplicate</TextButton>
        {!whole.locked && <TextButton onClick={removeSelected}>Delete</TextButton>}
      </Box>
    </>
  )
}

const contentKey = (b: Block) => ({ heading: 'text', text: 'text', button: 'words', picture: 'picture', field: 'label' })[b.kind as string] ?? ''

/** Text typed as plain lines; styles are kept where the text stays the same. */
function WordsField({ id, value, onChange }: { id?: string; value: Words; onChange(w: Words): void }) {
  const rich = typeof value !== 'string'
  return (
    <>
      <Typed id={id} value={plain(value)} lines={2} max={10_000} onChange={onChange} />
      {rich && <Muted>Parts of this text are styled. Edit it on the page to keep the styles.</Muted>}
    </>
  )
}

function WordsText({ block, at }: { block: Heading | Text; at: string }) {
  const set = (how: (b: Heading | Text) => void) => changeBlock(block.id, how)
  return (
    <>
      <Row label="Text" at={`${at}.text`} k="text">
        {id => <WordsField id={id} value={block.text} onChange={w => set(b => void (b.text = w))} />}
      </Row>
      <Row label="">
        {() => (
          <Muted>
            Insert the first name:{' '}
            <TextButton
              onClick={() =>
                set(b => void (b.text = typeof b.text === 'string' ? b.text + ' {first name|friend}' : [...b.text, { text: ' {first name|friend}' }]))
              }
            >
              {'{first name|friend}'}
            </TextButton>
          </Muted>
        )}
      </Row>
    </>
  )
}

/** How well words can be read on the background. */
function WordsContrast({ block }: { block: Heading | Text }) {
  const { design } = useSeen()
  const { kit } = useSite()
  if (design.frame.behind?.gradient) return null
  return (
    <Reads
      ink={paint(kit, block.color || design.frame.ink)}
      behind={paint(kit, design.frame.background)}
      large={block.kind === 'heading' && block.size >= 24}
    />
  )
}

function ListItems({ block, at }: { block: List; at: string }) {
  return (
    <Row label="One per line" at={`${at}.items`} wide>
      {id => (
        <Typed
          id={id}
          value={plain(joined(block.items))}
          lines={3}
          max={10_000}
          onChange={w => changeBlock<List>(block.id, b => void (b.items = linesOf(w)))}
        />
      )}
    </Row>
  )
}

function PictureFile({ block, at }: { block: Picture; at: string }) {
  return (
    <ChoosePicture
      value={block.picture}
      fault={useFault(`${at}.picture`)}
      onChoose={p =>
        changeBlock<Picture>(block.id, b => {
          b.picture = p.hash
          b.ratio = ratioOf(p)
        })
      }
    />
  )
}

function VideoFile({ block, at }: { block: Video; at: string }) {
  return (
    <>
      <ChooseFile
        value={block.file ?? ''}
        video
        fault={useFault(`${at}.file`)}
        onChoose={f =>
          changeBlock<Video>(block.id, b => {
            b.file = f.hash
            delete b.address
          })
        }
      />
      {block.file && (
        <Row label="">{() => <TextButton onClick={() => changeBlock<Video>(block.id, b => void delete b.file)}>Embed a video instead</TextButton>}</Row>
      )}
    </>
  )
}

/** What is said in a video, pasted or read from a file. */
function Captions({ block }: { block: Video }) {
  const choose = useRef<HTMLInputElement>(null)
  const put = (captions: string) => changeBlock<Video>(block.id, b => (captions.trim() ? void (b.captions = captions) : void delete b.captions))
  return (
    <Row label="Captions" k="captions" wide>
      {id => (
        <Box sx={{ display: 'grid', gap: '4px', justifyItems: 'start' }}>
          <Typed id={id} value={block.captions ?? ''} lines={3} max={40_000} hint={'00:01.000 --> 00:04.000\nWhat is said'} onChange={put} />
          <TextButton onClick={() => choose.current?.click()}>Read a WebVTT or SRT file</TextButton>
          <input
            ref={choose}
            type="file"
            hidden
            accept=".vtt,.srt,text/vtt"
            aria-label="Captions file"
            onChange={e => {
              const file = e.target.files?.[0]
              e.target.value = ''
              if (file) file.slice(0, 200_000).text().then(put)
            }}
          />
        </Box>
      )}
    </Row>
  )
}

function IconGrid({ value, onChange }: { value: string; onChange(name: string): void }) {
  return (
    <Box role="radiogroup" aria-label="Icon" sx={{ display: 'grid', gridTemplateColumns: 'repeat(7, 1fr)', gap: '3px', px: '16px', py: '4px' }}>
      {Object.entries(icons).map(([name, path]) => (
        <Box
          key={name}
          component="button"
          type="button"
          role="radio"
          aria-checked={name === value}
          aria-label={name}
          title={name}
          onClick={() => onChange(name)}
          sx={{
            border: 0,
            p: '4px',
            borderRadius: '5px',
            background: name === value ? plum.wash : 'none',
            color: name === value ? plum.main : 'inherit',
            cursor: 'pointer',
            lineHeight: 0,
          }}
        >
          <svg
            viewBox="0 0 24 24"
            width="22"
            height="22"
            fill="none"
            stroke="currentColor"
            strokeWidth="1.8"
            strokeLinecap="round"
            strokeLinejoin="round"
            aria-hidden="true"
          >
            <path d={path} />
          </svg>
        </Box>
      ))}
    </Box>
  )
}

function IconName({ block }: { block: Icon }) {
  return (
    <IconGrid
      value={block.name}
      onChange={name =>
        changeBlock<Icon>(block.id, b => {
          b.name = name
          b.path = icons[name]
        })
      }
    />
  )
}

function ColumnWidths({ block }: { block: Columns }) {
  const widths = block.blocks.map((_, i) => block.widths?.[i] ?? Math.round(100 / block.blocks.length))
  return (
    <Row label="Widths" k="widths">
      {() => (
        <Box sx={{ display: 'flex', gap: '4px' }}>
          {widths.map((w, i) => (
            <OutlinedInput
              key={i}
              size="small"
              type="number"
              value={w}
              inputProps={{ min: 1, max: 100, 'aria-label': `Width of column ${i + 1}` }}
              onChange={e => {
                const n = Math.round(Number(e.target.value))
                if (n >= 1 && n <= 100) changeBlock<Columns>(block.id, b => void (b.widths = widths.map((x, j) => (j === i ? n : x))))
              }}
              sx={{ flex: 1, '& input': { px: '6px !important' } }}
            />
          ))}
        </Box>
      )}
    </Row>
  )
}

const NoBackground = ({ block }: { block: Block }) => (
  <Row label="">
    {() => <TextButton onClick={() => changeBlock(block.id, b => void delete (b as { background?: string }).background)}>No background</TextButton>}
  </Row>
)

const Said = ({ children }: { children: string }) => <Row label="">{() => <Muted>{children}</Muted>}</Row>

const parts: Parts = {
  words: WordsText,
  contrast: WordsContrast,
  items: ListItems,
  picture: PictureFile,
  focus: ({ block }: { block: Picture }) => <FocalPoint hash={block.picture} />,
  video: VideoFile,
  captions: Captions,
  icon: IconName,
  widths: ColumnWidths,
  field: FieldSettings,
  button: ButtonSettings,
  draw: DrawSettings,
  until: TimerEnd,
  ways: ({ block }: { block: Block }) => <Ways block={block.id} label="Next scene" />,
  code: CodeSource,
  polled: TallyQuestion,
  links: LinkItems,
  unfilled: NoBackground,
  numbered: () => <Said>At 0 it shows the number of the scene.</Said>,
  cleaned: () => <Said>Scripts, frames and forms are removed when it is saved.</Said>,
}
