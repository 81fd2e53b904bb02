import { copyFileSync, mkdirSync } from 'node:fs'
import { brotliCompressSync, constants } from 'node:zlib'
import { defineConfig, type Plugin } from 'vite'

// The visitors' scripts, one a run: the loader as a plain script, for it is
// what the site's one line names, and the modules it fetches when needed.
const part = process.env.PART as
  | 'loader'
  | 'visit'
  | 'watcher'
  | 'renderer'
  | 'walk'
  | 'sending'
  | 'clicks'
  | 'links'
  | 'extras'
  | 'play'
  | 'draw'
  | 'chat'
  | 'frames'
  | 'inspector'
  | 'own'
  | 'cost'
  | 'still'
const entries = {
  loader: 'loader.ts',
  visit: 'visit.ts',
  watcher: 'watcher.ts',
  renderer: 'renderer.ts',
  walk: 'acts.ts',
  sending: 'sending.ts',
  clicks: 'clicks.ts',
  links: 'links.ts',
  extras: 'extras.tsx',
  play: 'play.tsx',
  draw: 'draw.tsx',
  chat: 'chat.tsx',
  frames: 'frames.tsx',
  inspector: 'inspector.tsx',
  own: 'ownPage.ts',
  cost: 'cost.ts',
  // For tests: the studio has it in its own script.
  still: 'still.ts',
}
const loader = part === 'loader'
// What a page names itself is no module.
const plain = loader || part === 'own'

/** The fonts that ship with pieces, by what designs call them. */
const fonts: Record<string, string> = {
  bricolage: 'bricolage-grotesque',
  instrument: 'instrument-sans',
  fraunces: 'fraunces',
  lora: 'lora',
  playfair: 'playfair-display',
  work: 'work-sans',
  nunito: 'nunito',
  karla: 'karla',
  grotesk: 'space-grotesk',
  caveat: 'caveat',
  rubik: 'rubik',
  source_serif: 'source-serif-4',
  bitter: 'bitter',
  outfit: 'outfit',
}

function copyFonts() {
  return {
    name: 'fonts',
    closeBundle() {
      mkdirSync('dist/page/fonts', { recursive: true })
      for (const [id, name] of Object.entries(fonts))
        copyFileSync(`node_modules/@fontsource-variable/${name}/files/${name}-latin-wght-normal.woff2`, `dist/page/fonts/${id}.woff2`)
    },
  }
}

/** A style sheet without the white space it is written with; what it says stays. */
const tight = (css: string) =>
  css
    .replace(/\s*([{};])\s*/g, '$1')
    .replace(/([:,]) /g, '$1')
    .replaceAll(';}', '}')

/** Leaves out notes to bundlers, which nobody reads after this one, and lays beside each script what browsers over https take of it. */
function pressed(): Plugin {
  return {
    name: 'pressed',
    generateBundle(_, made) {
      for (const one of Object.values(made)) {
        if (one.type !== 'chunk') continue
        one.code = one.code.replaceAll('/* @__PURE__ */', '')
        const params = { [constants.BROTLI_PARAM_MODE]: constants.BROTLI_MODE_TEXT, [constants.BROTLI_PARAM_QUALITY]: 11 }
        this.emitFile({ type: 'asset', fileName: one.fileName + '.br', source: brotliCompressSync(one.code, { params }) })
      }
    },
  }
}

function tightStyles() {
  return {
    name: 'tight-styles',
    transform: (code: string, id: string) => (/\/page\/\w*[sS]tyle\.ts$/.test(id) ? code.replace(/`[^`]*`/g, tight) : undefined),
  }
}

export default defineConfig({
  plugins: loader ? [copyFonts()] : [tightStyles(), pressed()],
  publicDir: false,
  // These are drawn with the renderer's own Preact.
  resolve: ['extras', 'play', 'draw', 'chat', 'frames'].includes(part)
    ? { alias: Object.fromEntries(['preact/jsx-runtime', 'preact'].map(name => [name, new URL('page/borrowed.ts', import.meta.url).pathname])) }
    : {},
  build: {
    outDir: 'dist/page',
    emptyOutDir: loader,
    target: 'es2022',
    lib: {
      entry: 'page/' + entries[part],
      formats: [plain ? 'iife' : 'es'],
      name: 'gobbetLoader',
      fileName: () => part + '.js',
    },
    minify: true,
    // Vite leaves a library's white space to whoever bundles it; nobody does here.
    rolldownOptions: { output: { minify: true } },
  },
})
