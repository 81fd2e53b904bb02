import react from '@vitejs/plugin-react'
import { defineConfig } from 'vite'

export default defineConfig({
  root: 'studio',
  plugins: [react()],
  // Replaced with a fresh one by the server on each answer.
  html: { cspNonce: 'gobbet-nonce' },
  build: {
    outDir: '../dist/studio',
    emptyOutDir: true,
    target: 'es2022',
    chunkSizeWarningLimit: 1500,
    rolldownOptions: { input: ['studio/index.html', 'studio/sign-in.html'] },
    assetsInlineLimit: 0,
  },
  server: { proxy: { '/api': 'http://127.0.0.1:8640', '/v1': 'http://127.0.0.1:8640' } },
})
