import { defineConfig } from 'vitest/config'

// What needs no browser and no server.
export default defineConfig({ test: { include: ['tests/*.test.ts'] } })
