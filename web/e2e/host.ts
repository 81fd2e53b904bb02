import { createServer, type RequestListener } from 'node:http'
import type { AddressInfo } from 'node:net'
import type { Page } from '@playwright/test'
import { shop } from './api'

// A site for measuring: each page as it is with Gobbet's line, the same
// without it where the address ends in ?without, and with a line that names an
// idle script of another origin where it ends in ?idle: what any script costs.

const line = /<script[^>]*\/v1\/gobbet\.js[^>]*><\/script>/

/** Where an inline piece goes, with its room. */
const slot = '<div id="slot" style="min-height:420px"></div>'

/** A page whose own scripts and elements keep the browser busy. */
const heavy = (gobbet: string) => `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Heavy</title>${gobbet}
<style>body{font:16px/1.5 sans-serif;margin:0}main{max-width:900px;margin:0 auto}li{display:flex;gap:8px;padding:6px;border-bottom:1px solid #ddd}h1{font-size:52px}</style></head>
<body><nav><a href="/heavy">Home</a></nav><main><h1>Nine thousand glazes, and what each of them does in the kiln at cone ten</h1>${slot}<ul id="list"></ul></main>
<script>
const list = document.getElementById('list')
const from = performance.now()
for (let i = 0; i < 4000; i++) list.insertAdjacentHTML('beforeend', '<li id="g' + i + '"><b>Glaze ' + i + '</b><span>' + 'ash '.repeat(1 + i % 9) + '</span></li>')
while (performance.now() - from < 220);
</script></body></html>`

/** A page that its script draws, with data that takes a moment. */
const drawn = (gobbet: string) => `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Drawn</title>${gobbet}
<style>body{font:16px/1.5 sans-serif;margin:0}main{max-width:900px;margin:0 auto;min-height:1400px}h1{font-size:52px}</style></head><body><div id="app"></div>
<script type="module">
const app = document.getElementById('app')
await new Promise(done => setTimeout(done, 120))
app.innerHTML = '<main><h1>Everything on this page came later than the page itself did, as it does today</h1><p>' + 'celadon '.repeat(300) + '</p>${slot}</main>'
history.replaceState({}, '', location.pathname + location.search)
</script></body></html>`

/** Serves pages of the shop changed, as if the site had them so. */
export const served = (page: Page, url: string, change: (html: string) => string) =>
  page.route(url, async r => {
    const html = await (await r.fetch()).text()
    await r.fulfill({ contentType: 'text/html; charset=utf-8', body: change(html) })
  })

/** Gobbet's line, as a page of the shop has it. */
export const lineOf = (html: string) => html.match(line)![0]

/** The shop's pages, a heavy one and one that draws itself; gobbet is the line. */
export async function hostSite(): Promise<{ origin: string; end(): void }> {
  const answer = await fetch(`${shop}/journal/ash-glaze`)
  const gobbet = lineOf(await answer.text())
  const pages: Record<string, (line: string) => string> = { '/heavy': heavy, '/drawn': drawn }
  const nothing = await listening((_, response) => {
    response.setHeader('Content-Type', 'text/javascript')
    response.setHeader('Cache-Control', 'public, max-age=300')
    response.end(`/* ${'nothing '.repeat(60)}*/`)
  })
  const lines: Record<string, string> = { '?without': '', '?idle': `<script async src="${nothing.origin}/idle.js"></script>` }
  const host = await listening(async (request, response) => {
    const url = new URL(request.url ?? '/', 'http://host')
    const its = lines[url.search] ?? gobbet
    if (pages[url.pathname]) {
      response.setHeader('Content-Type', 'text/html; charset=utf-8')
      response.end(pages[url.pathname](its))
      return
    }
    const from = await fetch(shop + url.pathname)
    const type = from.headers.get('Content-Type') ?? ''
    response.setHeader('Content-Type', type)
    const body = Buffer.from(await from.arrayBuffer())
    response.end(type.startsWith('text/html') ? body.toString().replace(line, its).replace('</main>', `${slot}</main>`) : body)
  })
  return {
    origin: host.origin,
    end: () => {
      host.end()
      nothing.end()
    },
  }
}

async function listening(answer: RequestListener): Promise<{ origin: string; end(): void }> {
  const server = createServer(answer)
  await new Promise<void>(done => server.listen(0, '127.0.0.1', done))
  return { origin: `http://127.0.0.1:${(server.address() as AddressInfo).port}`, end: () => server.close() }
}
