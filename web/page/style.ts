// The renderer's style sheet. It lives in a shadow root, so that the site's
// styles cannot reach in and ours cannot leak out, and is adopted rather than
// written into the page, so that a strict CSP lets it be. Widths are judged by
// the layer's own (container queries), which is the window on a page and the
// canvas in the studio.
export const style = `
:host { all: initial; }
*, *::before, *::after { box-sizing: border-box; margin: 0; }
.layer { position: fixed; inset: 0; z-index: 2147483000; container-type: size; pointer-events: none; font-size: 16px; line-height: 1.45; text-align: start; -webkit-text-size-adjust: 100%; }
.veil { position: absolute; inset: 0; background: var(--veil); opacity: var(--veil-opacity); pointer-events: auto; }
.place { position: absolute; inset: 0; display: flex; align-items: center; justify-content: center; padding: 16px; }
.fly_in .place { align-items: flex-end; justify-content: flex-end; padding: 20px; }
.frame { position: relative; width: min(var(--width), 100%); max-height: 100%; overflow: auto; overscroll-behavior: contain; pointer-events: auto; padding: var(--padding); border-radius: var(--corners); background: var(--background); color: var(--ink); font-family: var(--font); box-shadow: 0 18px 60px rgb(0 0 0 / .28), 0 2px 8px rgb(0 0 0 / .12); outline: none; }
.scene { display: flex; flex-direction: column; gap: 16px; }
h2, p { font-size: var(--size); overflow-wrap: anywhere; white-space: pre-line; }
h2 { font-weight: 700; line-height: 1.16; letter-spacing: -.01em; text-wrap: balance; }
.start { text-align: start; align-self: stretch; } .center { text-align: center; align-self: stretch; } .end { text-align: end; align-self: stretch; }
.picture { display: block; overflow: hidden; max-width: 100%; background: color-mix(in srgb, var(--ink) 10%, transparent); }
.picture.start { align-self: flex-start; } .picture.center { align-self: center; } .picture.end { align-self: flex-end; }
.picture img { display: block; width: 100%; height: 100%; object-fit: cover; }
.picture.none { display: grid; place-items: center; font-size: 14px; min-height: 90px; }
label { display: block; font-size: 14px; font-weight: 600; margin-bottom: 5px; }
input { display: block; width: 100%; min-height: 46px; padding: 10px 13px; border: 1px solid color-mix(in srgb, var(--ink) 55%, var(--background)); border-radius: min(var(--corners), 8px); background: #fff; color: #1d1a20; font: inherit; font-size: 16px; }
input::placeholder { color: #6a6570; opacity: 1; }
input[aria-invalid=true] { border: 2px solid #b3261e; }
.fault { display: flex; gap: 6px; margin-top: 5px; font-size: 14px; padding: 4px 8px; border-radius: 4px; background: #fdecea; color: #8c1d18; }
.fault::before { content: "!"; font-weight: 700; }
.button { display: block; width: 100%; min-height: 48px; padding: 12px 20px; border: 0; border-radius: min(var(--corners), 10px); background: var(--fill); color: var(--on-fill); font: inherit; font-size: 16.5px; font-weight: 650; line-height: 1.3; text-align: center; text-decoration: none; cursor: pointer; overflow-wrap: anywhere; }
.button:hover { filter: brightness(1.08); } .button:active { filter: brightness(.94); }
.button[disabled] { cursor: progress; opacity: .7; }
.button.quiet { width: auto; align-self: center; min-height: 32px; padding: 4px 10px; background: none; color: var(--on-fill); font-weight: 500; font-size: 15px; text-decoration: underline; text-underline-offset: 3px; filter: none; }
.close { position: absolute; inset-block-start: 8px; inset-inline-end: 8px; width: 40px; height: 40px; padding: 0; border: 0; border-radius: 50%; background: color-mix(in srgb, var(--background) 72%, transparent); color: var(--ink); cursor: pointer; display: grid; place-items: center; z-index: 1; }
.close:hover { background: color-mix(in srgb, var(--ink) 12%, var(--background)); }
.close svg { width: 16px; height: 16px; }
:focus-visible { outline: 3px solid var(--accent); outline-offset: 2px; box-shadow: 0 0 0 2px var(--background); }
.frame:focus-visible { outline: none; box-shadow: 0 18px 60px rgb(0 0 0 / .28), 0 2px 8px rgb(0 0 0 / .12); }
@container (max-width: 520px) {
  .place { padding: 12px; }
  .fly_in .place { padding: 10px; }
  .fly_in .frame { width: 100%; }
  .frame { padding: min(var(--padding), 26px); }
  h2 { font-size: min(var(--size), 29px); }
}
@media (prefers-reduced-motion: no-preference) {
  .moving .frame { animation: rise .28s cubic-bezier(.2, .8, .3, 1); } .moving .veil { animation: dim .28s ease; }
}
@keyframes rise { from { opacity: 0; translate: 0 18px; } }
@keyframes dim { from { opacity: 0; } }
`
