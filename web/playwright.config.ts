import { defineConfig } from '@playwright/test'

// Drives the program that ships, with its own demo on its own ports.
export const ports = { studio: 8750, shop: 8751 }

export default defineConfig({
  testDir: 'e2e',
  testIgnore: process.env.SCREENSHOTS ? [] : ['screenshots.spec.ts'],
  testMatch: process.env.SCREENSHOTS ? ['screenshots.spec.ts'] : ['*.spec.ts'],
  outputDir: 'e2e/.out/results',
  globalSetup: './e2e/start.ts',
  workers: 1,
  timeout: 60_000,
  expect: { timeout: 10_000 },
  reporter: [['list']],
  use: {
    baseURL: `http://127.0.0.1:${ports.studio}`,
    viewport: { width: 1280, height: 800 },
    trace: 'retain-on-failure',
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
        // Documents a test fulfills itself have no address; they may call loopback all the same.
        '--disable-features=LocalNetworkAccessChecks',
      ],
    },
  },
})
