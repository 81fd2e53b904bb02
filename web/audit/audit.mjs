// An audit of pages as a slow phone gets them: node audit.mjs NAME=ADDRESS ...
// It is apart from web/package.json, for it is larger than all of that, and
// make bench alone runs it. It ends with an error where a page has less than
// `least` in a category.
import { launch } from 'chrome-launcher'
import lighthouse from 'lighthouse'

const least = 95

const chrome = await launch({ chromePath: '/usr/bin/chromium-headless-shell', chromeFlags: ['--headless', '--no-sandbox', '--disable-gpu'] })
let low = 0
try {
  for (const page of process.argv.slice(2)) {
    const [name, address] = [page.slice(0, page.indexOf('=')), page.slice(page.indexOf('=') + 1)]
    const { lhr } = await lighthouse(address, { port: chrome.port, logLevel: 'error' })
    const scores = Object.values(lhr.categories).map(c => `${c.title.toLowerCase()} ${Math.round((c.score ?? 0) * 100)}`)
    const largest = lhr.audits['largest-contentful-paint']
    console.log(`${name.padEnd(28)} ${scores.join(', ')}; largest paint after ${largest.displayValue}   to hold: ${least} each`)
    for (const c of Object.values(lhr.categories)) {
      if ((c.score ?? 0) * 100 >= least) continue
      low++
      for (const { id } of c.auditRefs) {
        const a = lhr.audits[id]
        if (a.score !== null && a.score < 0.9) console.log(`  ${c.title}: ${a.title} ${a.displayValue ?? ''}`)
      }
    }
  }
} finally {
  chrome.kill()
}
process.exit(low ? 1 : 0)
