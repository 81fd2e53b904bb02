import { defineConfig } from 'vite'

// The visitors' scripts, one a run: the loader as a plain script, for it is
// what the site's one line names, and the renderer as the module it imports.
const loader = process.env.PART === 'loader'

export default defineConfig({
  publicDir: false,
  build: {
    outDir: 'dist/page',
    emptyOutDir: loader,
    target: 'es2021',
    lib: {
      entry: loader ? 'page/loader.ts' : 'page/renderer.ts',
      formats: [loader ? 'iife' : 'es'],
      name: 'gobbetLoader',
      fileName: () => (loader ? 'loader.js' : 'renderer.js'),
    },
    minify: true,
  },
})
