// How prize draws look.
export const drawStyle = `
.draw { display: grid; grid-template-columns: minmax(0, 1fr); justify-items: center; gap: 10px; }
.draw .says { font-weight: 650; text-align: center; } .draw .says:empty { display: none; } .draw .wheel + .says { display: block; min-height: 1.45em; } .draw .odds { font-size: 13px; opacity: .85; text-align: center; text-wrap: pretty; }
.wheel { position: relative; max-width: 100%; aspect-ratio: 1; }
.wheel > svg { position: absolute; inset: 0; width: 100%; height: 100%; } .wheel .disc { will-change: transform; transform-origin: 50% 50%; } .wheel .disc g { transition: opacity .4s; } .wheel .lost { opacity: .3; }
.wheel text { font-family: var(--font); stroke: none; }
.hub { position: absolute; inset: 0; margin: auto; width: 22%; min-width: 64px; height: auto; aspect-ratio: 1; padding: 2px; border: 0; border-radius: 50%; font: inherit; font-size: 15px; font-weight: 700; line-height: 1.15; cursor: pointer; overflow: hidden; } .hub:hover { filter: brightness(.96); } .hub:disabled { cursor: default; }
.card { max-width: 100%; display: grid; justify-items: center; gap: 4px; } .under { position: relative; width: 100%; aspect-ratio: 2 / 1.1; display: grid; place-items: center; padding: 14px; border-radius: 14px; overflow: hidden; background: color-mix(in srgb, var(--card) 14%, #fff); box-shadow: inset 0 0 0 2px color-mix(in srgb, var(--card) 45%, #fff); mask: radial-gradient(circle 26px at 100% 50%, #0000 96%, #000); }
.under b { font-family: var(--heading); font-size: 26px; line-height: 1.15; text-align: center; color: #1d1a20; overflow-wrap: anywhere; } .card canvas { position: absolute; inset: 0; width: 100%; height: 100%; touch-action: none; cursor: grab; } .card canvas.gone { opacity: 0; pointer-events: none; transition: opacity .4s; }
.at-once { min-height: 36px; padding: 4px 10px; border: 0; background: none; color: inherit; font: inherit; font-size: 14px; text-decoration: underline; text-underline-offset: 3px; cursor: pointer; } .at-once:disabled { visibility: hidden; } .card:has(.gone) .at-once { display: none; }
.draw .boxes { width: 100%; border: 0; padding: 26px 0 0; min-width: 0; display: flex; flex-wrap: wrap; justify-content: center; gap: 18px 14px; }
.boxes button { position: relative; flex: 0 0 auto; width: clamp(84px, 27%, 132px); aspect-ratio: 1 / .92; padding: 0; border: 0; background: none; font: inherit; color: inherit; cursor: pointer; } .boxes button:disabled { cursor: default; } .boxes .shut { opacity: .45; }
.boxes span { position: absolute; } .inside { inset: 12% 4% 0; display: grid; place-items: start center; padding: 6px; border-radius: 8px; background: var(--inside); color: #fff; } .inside b { line-height: 1.15; overflow-wrap: anywhere; }
.front { inset: 26% 4% 0; display: grid; place-items: center; border-radius: 4px 4px 12px 12px; background: var(--box); font-size: 17px; font-weight: 700; transform-origin: 50% 100%; } .front::before { content: ''; position: absolute; inset: 0 43%; background: color-mix(in srgb, var(--box) 72%, #fff); } .front i { position: relative; display: grid; place-items: center; width: 38px; height: 38px; border-radius: 50%; background: var(--box); font-style: normal; } .lid { inset: 8% 0 72%; border-radius: 8px; background: color-mix(in srgb, var(--box) 86%, #000); mask: radial-gradient(circle 11px at 82% 0, #0000 94%, #000); transform-origin: 0 100%; }
.boxes button:not(:disabled):hover .lid { transform: translateY(-4px) rotate(-3deg); } .boxes .open .lid { transform: translateY(-26px) rotate(-16deg); } .boxes .open .front { inset-block-start: 74%; } .boxes .open .front i { display: none; } .boxes .open .inside { inset-block-start: 8%; place-items: center; }
@media (prefers-reduced-motion: no-preference) {
  .lid, .front, .inside { transition: transform .5s cubic-bezier(.2, .8, .3, 1), inset .4s; } .boxes .going { animation: shake .35s infinite; }
}
.bar .draw { display: flex; flex-wrap: wrap; align-items: center; gap: 6px 14px; } .bar .card { display: flex; flex-wrap: wrap; align-items: center; width: auto !important; } .bar .under { width: 168px; aspect-ratio: auto; height: 46px; padding: 4px 12px; border-radius: 8px; mask: radial-gradient(circle 10px at 100% 50%, #0000 94%, #000); } .bar .under b { font-size: 16px; } .bar .wheel { max-width: 150px; }
@media (forced-colors: active) { .wheel .disc, .wheel .rim, .card canvas { forced-color-adjust: none; } .hub, .boxes button { border: 2px solid; } }
@keyframes shake { 30% { transform: rotate(-2deg); } 70% { transform: rotate(2deg); } }
`
