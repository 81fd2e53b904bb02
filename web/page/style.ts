// The renderer's style sheet. It lives in a shadow root, so that the site's
// styles cannot reach in and ours cannot leak out, and is adopted rather than
// written into the page, so that a strict CSP lets it be. Widths are judged by
// the layer's own (container queries), which is the window on a page and the
// canvas in the studio.
export const style = `
*, *::before, *::after { box-sizing: border-box; margin: 0; }
.layer { all: initial; display: block; box-sizing: border-box; position: fixed; inset: 0; width: auto; height: auto; max-width: none; max-height: none; overflow: visible; z-index: 2147483000; container-type: size; pointer-events: none; font-size: 16px; line-height: 1.45; text-align: start; color-scheme: only light; -webkit-text-size-adjust: 100%; color: var(--ink); font-family: var(--font); }
dialog:not([open]):not(.leaving), dialog::backdrop { display: none; } dialog:focus-visible { outline: none; box-shadow: none; }
.backdrop { position: absolute; inset: 0; background: var(--backdrop); opacity: var(--backdrop-opacity); pointer-events: auto; }
.place { position: absolute; inset: 0; display: flex; align-items: center; justify-content: center; padding: 16px; }
.place.top { align-items: flex-start; } .place.bottom { align-items: flex-end; }
.fly_in .place { padding: 20px; } .place.outside { padding-top: 62px; }
.place.bottom_end { align-items: flex-end; justify-content: flex-end; } .place.bottom_start { align-items: flex-end; justify-content: flex-start; }
.place.top_end { align-items: flex-start; justify-content: flex-end; } .place.top_start { align-items: flex-start; justify-content: flex-start; }
.hold { position: relative; display: flex; width: min(var(--width), 100%); max-height: 100%; pointer-events: auto; outline: none; }
.frame { position: relative; flex: 1; min-width: 0; display: grid; overflow: auto; overscroll-behavior: contain; border-radius: var(--corners); background: var(--background); box-shadow: var(--shadow); border: var(--border); isolation: isolate; }
.body { position: relative; padding: var(--padding); min-width: 0; display: grid; align-content: center; }
.scene { display: flex; flex-direction: column; gap: var(--gap); min-width: 0; }
h2, p { overflow-wrap: anywhere; white-space: pre-line; font-size: var(--size); }
h2 { font-family: var(--heading); font-weight: 700; line-height: 1.14; letter-spacing: -.012em; text-wrap: balance; }
p a, h2 a { color: inherit; text-decoration: underline; text-underline-offset: 2px; }
.scene .start { text-align: start; align-self: stretch; } .scene .center { text-align: center; align-self: stretch; } .scene .end { text-align: end; align-self: stretch; }
.closes h2:first-child, .closes p:first-child { padding-inline-end: max(0px, 48px - var(--padding)); } .closes h2.center:first-child, .closes p.center:first-child { padding-inline-start: max(0px, 48px - var(--padding)); }
.picture { position: relative; display: block; overflow: hidden; max-width: 100%; background: color-mix(in srgb, var(--ink) 7%, transparent); }
.picture.start, .narrow.start { align-self: flex-start; } .picture.center, .narrow.center { align-self: center; } .picture.end, .narrow.end { align-self: flex-end; }
.picture img { display: block; width: 100%; height: 100%; border: 0; }
.bare { position: absolute; width: 1px; height: 1px; overflow: hidden; clip-path: inset(50%); white-space: nowrap; }
label, legend { display: block; font-size: 14px; font-weight: 600; margin-bottom: 5px; padding: 0; }
input, textarea, select { display: block; width: 100%; min-height: 46px; padding: 10px 13px; border: 1px solid color-mix(in srgb, var(--field-line) 58%, #fff); border-radius: var(--field-corners); background: #fff; color: #1d1a20; font: inherit; font-size: 16px; }
.line input, .line textarea, .line select { border-width: 0 0 2px; }
input::placeholder, textarea::placeholder { color: #6a6570; opacity: 1; }
[aria-invalid=true] { border: 2px solid #b3261e; }
.consent { display: grid; grid-template-columns: 24px minmax(0, 1fr); gap: 10px; font-weight: 400; align-items: start; margin: 0; cursor: pointer; } .consent input { width: 22px; height: 22px; min-height: 0; accent-color: var(--accent); }
.help { font-size: 13.5px; margin-top: 4px; opacity: .85; }
.fault { display: flex; gap: 6px; margin-top: 5px; font-size: 14px; padding: 4px 8px; border-radius: 4px; background: #fdecea; color: #8c1d18; }
.fault::before { content: "!"; font-weight: 700; }
.button { display: block; width: 100%; min-height: 48px; padding: 12px 20px; border: 2px solid transparent; border-radius: var(--round); background: var(--fill); color: var(--on-fill); font: inherit; font-size: var(--size); font-weight: var(--weight); text-transform: var(--case); line-height: 1.3; text-align: center; text-decoration: none; cursor: pointer; overflow-wrap: anywhere; }
.button:hover { filter: brightness(1.08); } .button:active { filter: brightness(.94); } .button.turns:hover { filter: none; background: var(--hover); }
.button[aria-disabled] { cursor: progress; opacity: .7; }
.button.narrow { width: auto; padding-inline: 26px; }
.button.lined { background: none; border-color: currentColor; }
.button.quiet { width: auto; align-self: center; min-height: 32px; padding: 4px 10px; background: none; border: 0; font-weight: 500; text-decoration: underline; text-underline-offset: 3px; filter: none; text-transform: none; } .button.quiet.start { align-self: flex-start; padding-inline: 0; } .button.quiet.end { align-self: flex-end; }
.close { position: absolute; inset-block-start: 8px; inset-inline-end: 8px; min-width: 40px; height: 40px; padding: 0; border: 0; border-radius: 20px; background: color-mix(in srgb, var(--background) 72%, transparent); color: var(--close); cursor: pointer; display: grid; place-items: center; z-index: 1; font: inherit; font-size: 14px; }
.close:hover { background: color-mix(in srgb, var(--ink) 12%, var(--background)); } .close.plain { background: none; } .close.words { padding-inline: 14px; text-decoration: underline; }
.close.start { inset-inline: 8px auto; } .close.outside { inset-block-start: -46px; inset-inline-end: 0; background: var(--background); }
.close svg { width: 16px; height: 16px; }
.credit { font-size: 12.5px; text-align: center; opacity: .8; }
:focus-visible { outline: 3px solid var(--accent); outline-offset: 2px; box-shadow: 0 0 0 2px var(--background); }
.hold:focus-visible, .scene:focus-visible { outline: none; box-shadow: none; }
@container (max-width: 600px) {
  .fly_in .place { padding: 10px; } .fly_in .hold { width: 100%; }
  .hold { --padding: min(var(--pad), 24px); } h2 { font-size: min(var(--size), max(22px, calc(var(--size) * .8))); }
}
@media print { .layer:not(.inline) { display: none; } }
@media (forced-colors: active) { .frame, .button { border: 2px solid; } .close { border: 1px solid; } [aria-invalid=true] { border-width: 4px; } }
@keyframes fade { from { opacity: 0; } } @keyframes rise { from { opacity: 0; transform: translateY(16px); } } @keyframes drop { from { opacity: 0; transform: translateY(-100%); } } @keyframes slide { from { opacity: 0; transform: translateX(40px); } } @keyframes grow { from { opacity: 0; transform: scale(.92); } }
@media (prefers-reduced-motion: no-preference) {
  .moving .backdrop { animation: fade .2s; } .moving .hold { animation: .28s cubic-bezier(.2, .8, .3, 1); animation-name: var(--enter); }
  .leaving .backdrop { animation: fade .18s reverse forwards; } .leaving .hold { animation: .18s ease-in reverse forwards; animation-name: var(--leave); }
}
`
