import { defineConfig } from '@playwright/test'

// Drives the program that ships. Each worker has a demo of its own, on its own
// ports: what one test puts on a site is none of another's business.
const alone = process.env.SCREENSHOTS ? 'screenshots.spec.ts' : process.env.BENCH ? 'bench.spec.ts' : ''
export const workers = alone ? 1 : 3
export const portsOf = (worker: number) => ({ studio: 8750 + 3 * worker, shop: 8751 + 3 * worker, pages: 8752 + 3 * worker })
// The studio stands still for those who want it so, which spares the tests its transitions; visitors' pages move.
// Two of its tests keep two processors busy; one that mostly waits goes beside them.
const studio = /\b(acts|around|compose|jobs|launch|month|newcomer|reach|results|rules|site|studio|way|windows)\.spec\.ts$/
export const worker = Number(process.env.TEST_PARALLEL_INDEX ?? 0)
export const ports = portsOf(worker)

// Which of two widths is tried changes each day. It is settled once for a run, which may go on past midnight: workers have it from here.
process.env.TURN ??= String(Math.floor(Date.now() / 86_400_000))

export default defineConfig({
  testDir: 'e2e',
  testIgnore: alone ? [] : ['screenshots.spec.ts'],
  testMatch: [alone || '*.spec.ts'],
  projects: alone
    ? undefined
    : [
        { name: 'studio', testMatch: studio, workers: 2, use: { contextOptions: { reducedMotion: 'reduce' } } },
        { name: 'page', testIgnore: [studio, 'screenshots.spec.ts'] },
      ],
  outputDir: 'e2e/.out/results',
  globalSetup: './e2e/start.ts',
  workers,
  // A busy machine takes several times as long; what is broken still fails.
  timeout: 150_000,
  expect: { timeout: 20_000 },
  // What passes at its second try is a fault, of the product or of the test.
  retries: 0,
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
      executablePath: '/usr/bin/chromium-headless-shell',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
        // As a visitor's browser has it: what names itself a robot, or says that a program drives it, is left out of all counts.
        '--user-agent=Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/156.0.0.0 Safari/537.36',
        '--disable-blink-features=AutomationControlled',
        // Documents a test fulfills itself have no address; they may call loopback all the same.
        // And no address bar: the browser's own is a web page, drawn anew for every window.
        '--disable-features=LocalNetworkAccessChecks,PreloadTopChromeWebUI,WebUIOmniboxPopup,WebUIOmniboxAimPopup',
      ],
    },
  },
})
