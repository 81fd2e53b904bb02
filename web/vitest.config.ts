import { defineConfig } from 'vitest/config'

// What needs no browser and no server. A busy machine takes several times as long; what is broken still fails.
export default defineConfig({ test: { include: ['tests/*.test.ts'], testTimeout: 60_000 } })
