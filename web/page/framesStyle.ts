// How the formats look that stand in the page's flow or along its edges, and what lies behind the blocks.
export const framesStyle = `
.behind { position: absolute; inset: 0; overflow: hidden; z-index: -1; }
.behind img, .behind video { position: absolute; inset: 0; width: 100%; height: 100%; }
.frame > .pause { position: absolute; inset-block-end: 8px; inset-inline-start: 8px; width: 40px; height: 40px; border: 0; border-radius: 20px; background: rgb(0 0 0 / .6); color: #fff; font-size: 13px; cursor: pointer; z-index: 1; }
.behind i { position: absolute; inset: 0; background: var(--background); }
.beside { position: relative; inset: auto; z-index: auto; min-height: 100%; }
.frame.start { grid-template-columns: var(--share) minmax(0, 1fr); } .frame.end { grid-template-columns: minmax(0, 1fr) var(--share); } .frame.end .beside { order: 1; }
.frame.top .beside { min-height: 0; height: calc(var(--width) * var(--part)); max-height: 38vh; }
.full .place { padding: 0; } .full .hold { width: 100%; height: 100%; } .full .frame { border-radius: 0; } .full .scene { width: min(var(--width), 100%); margin-inline: auto; }
.full .frame.top { grid-template-rows: auto 1fr; }
.sheet .place { padding: 0; justify-content: flex-end; align-items: stretch; } .sheet .place.start { justify-content: flex-start; } .sheet .frame { border-radius: 0; grid-template-rows: auto 1fr; } .sheet .body { align-content: start; } .sheet .frame:not(.top) { grid-template-rows: 1fr; }
.layer.bar { inset: 0 0 auto; height: auto; container-type: inline-size; } .layer.bar.bottom { inset: auto 0 0; } .layer.bar.flows { position: static; }
.bar .place { position: static; padding: 0; } .bar .hold { width: 100%; max-height: 60vh; } .bar .frame { border-radius: var(--corners); } .bar .beside { display: none; } .bar .frame.start, .bar .frame.end { grid-template-columns: 1fr; }
.bar .body { padding-inline: max(var(--padding), 52px); } .bar .scene { flex-flow: row wrap; align-items: center; justify-content: center; gap: 8px 18px; width: min(var(--width), 100%); margin-inline: auto; }
.layer.bar .scene > *, .layer.bar .box > *, .layer.bar .columns > * { flex: 0 1 auto; width: auto; max-width: 100%; align-self: center; } .bar .field > * { max-width: 100%; min-width: 0; } .bar fieldset { flex: 1 1 100%; } .bar h2 { --size: 20px; } .bar .button { min-height: 38px; padding: 7px 18px; } .bar .field > input { min-height: 38px; padding: 6px 12px; min-width: min(200px, 100%); width: auto; } .bar .picture { height: 44px; width: auto; } .bar .box, .bar .columns { display: flex; flex-flow: row wrap; align-items: center; gap: 8px 18px; } .bar ul, .bar ol { display: flex; flex-wrap: wrap; gap: 4px 18px; } .bar .divider { display: none; } .bar .field { display: flex; flex-wrap: wrap; align-items: center; gap: 4px 10px; } .bar .field > label { margin: 0; }
.layer.inline { position: relative; inset: auto; z-index: auto; container-type: inline-size; }
.layer.inline.still { position: absolute; top: var(--at-y, 12%); left: var(--at-x, 8%); width: var(--at-w, 84%); }
.inline .place { position: static; padding: 0; }
.tab { position: absolute; pointer-events: auto; bottom: 20px; min-height: 44px; padding: 10px 20px; border: 0; border-radius: 22px; background: var(--tab); color: var(--on-tab); font: inherit; font-weight: 650; cursor: pointer; box-shadow: 0 4px 18px rgb(0 0 0 / .22); } .tab.bottom_end, .tab.middle_end { inset-inline-end: 20px; } .tab.bottom_start, .tab.middle_start { inset-inline-start: 20px; } .tab.middle_end, .tab.middle_start { bottom: 50%; }
.layer.shut { position: fixed; inset: 0; height: auto; container-type: size; }
.bar .closes .scene > :first-child { padding-inline: 0; } .bar .close { inset-block: 0; margin-block: auto; }
@container (max-width: 600px) {
  .frame.start, .frame.end { grid-template-columns: 1fr; } .frame.end .beside { order: 0; } .beside { min-height: 0; height: 150px; } .frame.top .beside { height: 150px; }
  .sheet .hold { width: min(var(--width), 100% - 40px); } .bar .body { padding-inline: 14px 52px; } .bar .scene { justify-content: flex-start; gap: 8px 10px; } .bar .field > input { min-width: min(150px, 100%); } .layer.bar .scene > .field:has(> input) { flex: 1 1 150px; min-width: 0; } .bar .field > input { flex: 1 1 100px; } .bar .button.quiet { padding-inline: 0; }
}
`
