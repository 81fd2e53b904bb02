import { defineConfig } from 'vite'

// The visitors' scripts, one a run: the loader as a plain script, for it is
// what the site's one line names, and the modules it fetches when needed.
const part = process.env.PART as 'loader' | 'watcher' | 'renderer' | 'inspector'
const entries = { loader: 'loader.ts', watcher: 'watcher.ts', renderer: 'renderer.ts', inspector: 'inspector.tsx' }
const loader = part === 'loader'

export default defineConfig({
  publicDir: false,
  build: {
    outDir: 'dist/page',
    emptyOutDir: loader,
    target: 'es2021',
    lib: {
      entry: 'page/' + entries[part],
      formats: [loader ? 'iife' : 'es'],
      name: 'gobbetLoader',
      fileName: () => part + '.js',
    },
    minify: true,
  },
})
