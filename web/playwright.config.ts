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
  // A busy machine takes several times as long; what is broken still fails.
  timeout: 150_000,
  expect: { timeout: 20_000 },
  retries: process.env.CI_RETRIES ? Number(process.env.CI_RETRIES) : 0,
  reporter: [['list']],
  use: {
    actionTimeout: 20_000,
    navigationTimeout: 40_000,
    baseURL: `http://127.0.0.1:${ports.studio}`,
    viewport: { width: 1280, height: 800 },
    // Recording every test costs a third of the time; a test that fails is told by its words and its picture.
    trace: process.env.TRACE ? 'retain-on-failure' : 'off',
    screenshot: 'only-on-failure',
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
