import '@xyflow/react/dist/base.css'
import { graphlib, layout } from '@dagrejs/dagre'
import Box from '@mui/material/Box'
import Button from '@mui/material/Button'
import Dialog from '@mui/material/Dialog'
import DialogTitle from '@mui/material/DialogTitle'
import { type Connection, Controls, type Edge, Handle, MarkerType, type Node, type NodeProps, Position, ReactFlow } from '@xyflow/react'
import { createContext, useContext, useMemo, useState } from 'react'
import { useParams } from 'react-router'
import type { Design, Drawing, Scene } from '../../../../kinds/piece'
import type { PlayedVariant } from '../../../../kinds/studio'
import { buttonsOf, deadEnds, depths, type Way, waysOf, waysOn } from '../../../design/graph'
import { apricot, brick, ink, paper, plum } from '../../../parts/look/theme'
import { Miniature } from '../../../parts/pages/Miniature'
import { between, count, percent } from '../../../parts/words/say'
import { useDrawing } from '../../../piece/drawing'
import { usePlayed } from '../../../server/queries'
import { lead, relead, unlead } from '../../commands/scenes'
import { useScene, useView } from '../../commands/view'
import { PlayedThrough, usePlayThrough } from './PlayThrough'

const card = { width: 196, height: 100 }
const caption = 24
const chip = 26

/** Stands for the way of a scene that goes on by itself, which no block leads. */
const byItself = 'by-itself'
const blockOf = (handle?: string | null) => (handle === byItself ? '' : (handle ?? ''))

/** What a scene may be left by: what goes on, and buttons that could. */
const rowsOf = (s: Scene) => {
  const on = waysOn(s)
  if (s.passes && !on.length) return [{ id: byItself, words: 'automatically' }]
  return [...on, ...buttonsOf(s).filter(b => b.press.do !== 'back' && !on.some(w => w.id === b.id))]
}

const heightOf = (s: Scene) => card.height + caption + rowsOf(s).length * chip + 2

/** Scenes in columns from the first on, laid out so that few ways cross. */
function spots(design: Design, ways: Way[]): Map<string, { x: number; y: number }> {
  const g = new graphlib.Graph({ multigraph: true })
    .setGraph({ rankdir: 'LR', nodesep: 30, ranksep: 96, marginx: 16, marginy: 16 })
    .setDefaultEdgeLabel(() => ({}))
  for (const s of design.scenes) g.setNode(s.id, { width: card.width, height: heightOf(s) })
  ways.forEach((w, i) => {
    if (g.hasNode(w.to)) g.setEdge(w.from, w.to, {}, String(i))
  })
  layout(g)
  return new Map(
    design.scenes.map(s => {
      const { x, y } = g.node(s.id)
      return [s.id, { x: x - card.width / 2, y: y - heightOf(s) / 2 }]
    }),
  )
}

/** The ways as lines, each from the block it is gone by; several conditions of one block that lead to one scene are one line. */
function linesOf(design: Design, ways: Way[], live: PlayedVariant | undefined): Edge[] {
  const lines = new Map<string, Edge>()
  for (const w of ways) {
    const scene = design.scenes.find(s => s.id === w.from)!
    // A way that any block goes is drawn from the first.
    const block = w.block || (rowsOf(scene)[0]?.id ?? '')
    const id = `${w.from} ${block} ${w.to}`
    if (!block || !design.scenes.some(s => s.id === w.to)) continue
    const gone = live?.ways.find(x => x.from === w.from && x.to === w.to)
    lines.set(id, {
      id,
      source: w.from,
      sourceHandle: block,
      target: w.to,
      label: gone?.share == null ? undefined : percent(gone.share),
      ariaLabel: `${scene.name} leads to ${design.scenes.find(s => s.id === w.to)!.name}${gone?.share == null ? '' : `: ${percent(gone.share)} (${between(gone.interval)}) of those who went on, ${count(gone.walks)}`}`,
      markerEnd: { type: MarkerType.ArrowClosed, color: plum.main, width: 16, height: 16 },
      style: { strokeDasharray: w.when.length ? '5 4' : undefined },
      reconnectable: 'target',
    })
  }
  return [...lines.values()]
}

interface Drawn {
  drawing: Drawing
  /** Who comes to each scene, in words. */
  came: Map<string, string>
  cameHow: string
  open(scene: string): void
}
const DrawnContext = createContext<Drawn>(null as never)

type SceneNode = Node<{ scene: Scene; index: number; wrong: string; ways: Way[] }, 'scene'>

function SceneCard({ data: { scene: s, index, wrong, ways } }: NodeProps<SceneNode>) {
  const { drawing, came, cameHow, open } = useContext(DrawnContext)
  return (
    <Box
      data-scene={s.id}
      sx={{
        width: card.width,
        background: paper.sheet,
        border: `${wrong ? 2 : 1}px ${wrong ? 'dashed' : 'solid'} ${wrong ? apricot.main : paper.strong}`,
        borderRadius: '8px',
      }}
    >
      <Handle type="target" position={Position.Left} style={{ top: card.height / 2 }} />
      <Box
        component="button"
        type="button"
        className="nodrag"
        onClick={() => open(s.id)}
        aria-label={`Open ${s.name}`}
        sx={{ border: 0, p: 0, display: 'block', width: '100%', cursor: 'pointer', background: 'none', textAlign: 'start', font: 'inherit' }}
      >
        <Box sx={{ overflow: 'hidden', borderRadius: '7px 7px 0 0' }}>
          <Miniature drawing={drawing} scene={s.id} width={card.width - 2} height={card.height} />
        </Box>
        <Box sx={{ px: '8px', fontSize: 12.5, fontWeight: 600, height: caption, lineHeight: `${caption}px`, display: 'flex', gap: '6px' }}>
          <Box component="span" sx={{ flex: 1, overflow: 'hidden', whiteSpace: 'nowrap', textOverflow: 'ellipsis', color: wrong ? apricot.ink : undefined }}>
            {index + 1} · {wrong ? `${s.name}: ${wrong}` : s.name}
          </Box>
          {!wrong && came.has(s.id) && (
            <Box component="span" title={cameHow} sx={{ fontWeight: 400, color: ink[2] }}>
              {came.get(s.id)}
            </Box>
          )}
        </Box>
      </Box>
      {rowsOf(s).map((b, i) => (
        <Box key={b.id} sx={{ height: chip, display: 'flex', alignItems: 'center', px: '8px', fontSize: 12, borderTop: `1px solid ${paper.line}` }}>
          <Box component="span" sx={{ flex: 1, overflow: 'hidden', whiteSpace: 'nowrap', textOverflow: 'ellipsis', color: ink[2] }}>
            {b.words}
          </Box>
          <Handle
            type="source"
            id={b.id}
            position={Position.Right}
            data-dot={b.id}
            title="Drag to a scene"
            className={ways.some(w => !w.block || w.block === b.id) ? 'leads' : ''}
            style={{ top: card.height + caption + i * chip + chip / 2 + 1 }}
          />
        </Box>
      ))}
    </Box>
  )
}

const kinds = { scene: SceneCard }

/** The graph of scenes: what leads where, to be led elsewhere by hand. */
export default function SceneMap({ onClose }: { onClose(): void }) {
  const { doc, design, v } = useScene()
  const drawing = useDrawing(doc, design)
  const [seed, setSeed] = useState(0)
  const [picked, setPicked] = useState('')
  const played = usePlayThrough(drawing, seed)
  const { piece = '' } = useParams()
  const measured = usePlayed(piece, 0).data?.variants.find(x => x.id === doc.split.variants[v].id)
  const live = measured?.visitors ? measured : undefined
  const ways = useMemo(() => waysOf(design), [design])
  const nodes = useMemo((): SceneNode[] => {
    const at = spots(design, ways)
    const dead = deadEnds(design)
    const depth = depths(design)
    return design.scenes.map((scene, index) => ({
      id: scene.id,
      type: 'scene',
      position: at.get(scene.id)!,
      width: card.width,
      height: heightOf(scene),
      focusable: false,
      data: {
        scene,
        index,
        ways: ways.filter(w => w.from === scene.id),
        wrong: !depth.has(scene.id) ? 'not reached' : dead.includes(scene.id) ? 'dead end' : '',
      },
    }))
  }, [design, ways])
  const lines = useMemo(() => linesOf(design, ways, live).map(line => ({ ...line, selected: line.id === picked })), [design, ways, live, picked])
  const came = live
    ? new Map(live.scenes.map(s => [s.id, count(s.reached)]))
    : new Map(Object.entries(played.isError ? {} : (played.data?.reached ?? {})).map(([id, n]) => [id, `${Math.round((100 * n) / played.data!.visitors)} %`]))
  const drawn: Drawn = {
    drawing,
    came,
    cameHow: live ? 'Visitors who reached it, all time' : 'Simulated visitors who reach it',
    open: scene => {
      useView.setState({ scene, selected: 'frame', also: [] })
      onClose()
    },
  }
  // A line may be let go anywhere over a scene.
  const below = (e: MouseEvent | TouchEvent): string | undefined => {
    const { clientX, clientY } = 'changedTouches' in e ? e.changedTouches[0] : e
    for (const one of document.elementsFromPoint(clientX, clientY)) {
      const scene = one.closest<HTMLElement>('[data-scene]')
      if (scene) return scene.dataset.scene
    }
  }
  const leads = ({ source, sourceHandle, target }: Connection) => source !== target && lead(source, blockOf(sourceHandle), target)
  return (
    <Dialog open onClose={onClose} maxWidth={false} fullWidth aria-labelledby="map-title" slotProps={{ paper: { sx: { maxWidth: 1180 } } }}>
      <DialogTitle id="map-title" variant="h2" sx={{ display: 'flex', alignItems: 'center', whiteSpace: 'nowrap' }}>
        Map of scenes
        <Box component="span" sx={{ ml: 2, fontSize: 13, fontFamily: 'inherit', color: ink[2], fontWeight: 400, overflow: 'hidden', textOverflow: 'ellipsis' }}>
          Drag a dot, or the end of a line, to another scene. Dashed lines depend on answers.{live ? ' Numbers are visitors since launch.' : ''}
        </Box>
        <Button variant="outlined" size="small" onClick={onClose} sx={{ ml: 'auto', flex: 'none' }}>
          Close
        </Button>
      </DialogTitle>
      <Box sx={{ height: '52vh', minHeight: 300, flex: 'none', borderTop: `1px solid ${paper.line}`, ...looks }}>
        <DrawnContext value={drawn}>
          <ReactFlow
            nodes={nodes}
            edges={lines}
            nodeTypes={kinds}
            nodesDraggable={false}
            deleteKeyCode={['Delete', 'Backspace']}
            onConnect={leads}
            onConnectEnd={(e, { isValid, fromNode, fromHandle }) => {
              const to = below(e)
              if (!isValid && to && fromNode && fromHandle?.id && to !== fromNode.id) lead(fromNode.id, blockOf(fromHandle.id), to)
            }}
            onReconnect={(line, to) => to.target !== line.source && relead(line.source, blockOf(line.sourceHandle), line.target, to.target)}
            onReconnectEnd={(e, line, _, { isValid }) => {
              const to = below(e)
              if (!isValid && to && to !== line.source) relead(line.source, blockOf(line.sourceHandle), line.target, to)
            }}
            onEdgesChange={changes => {
              for (const c of changes) if (c.type === 'select') setPicked(now => (c.selected ? c.id : now === c.id ? '' : now))
            }}
            onEdgesDelete={gone => {
              for (const line of gone) unlead(line.source, blockOf(line.sourceHandle), line.target)
            }}
            fitView
            fitViewOptions={{ maxZoom: 1, padding: 0.06 }}
            minZoom={0.2}
            maxZoom={1.5}
            proOptions={{ hideAttribution: true }}
          >
            <Controls showInteractive={false} />
          </ReactFlow>
        </DrawnContext>
      </Box>
      {design.scenes.length > 1 && <PlayedThrough design={design} played={played} onAgain={() => setSeed(seed + 1)} />}
    </Dialog>
  )
}

/** The map in our own face. */
const looks = {
  '& .react-flow': { background: paper.page },
  '& .react-flow__node': { cursor: 'default' },
  '& .react-flow__handle': {
    width: 14,
    height: 14,
    minWidth: 0,
    borderRadius: '50%',
    border: `2px solid ${plum.main}`,
    background: paper.sheet,
    cursor: 'crosshair',
  },
  '& .react-flow__handle.leads': { background: plum.main },
  '& .react-flow__handle-left': { opacity: 0 },
  '& .react-flow__edge-path': { stroke: plum.main, strokeWidth: 2, opacity: 0.8 },
  '& .react-flow .react-flow__edge.selected .react-flow__edge-path, & .react-flow .react-flow__edge:focus-visible .react-flow__edge-path': {
    stroke: brick.main,
    strokeWidth: 3.5,
    opacity: 1,
  },
  '& .react-flow__edge-text': { fontSize: 12, fontWeight: 650, fill: ink[1] },
  '& .react-flow__edge-textbg': { fill: paper.page },
  '& .react-flow__connection-path': { stroke: apricot.main, strokeWidth: 2.5, strokeDasharray: '6 5' },
  '& .react-flow__controls': { display: 'grid', gap: '4px', m: '0 0 12px 12px' },
  '& .react-flow__controls-button': {
    width: 30,
    height: 30,
    p: '7px',
    border: `1px solid ${paper.strong}`,
    borderRadius: '6px',
    background: paper.sheet,
    cursor: 'pointer',
    '& svg': { width: '100%', height: '100%', fill: ink[1] },
  },
}
