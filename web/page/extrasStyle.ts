// How the blocks look that not every piece holds, and buttons that draw the eye.
export const extrasStyle = `
li { overflow-wrap: anywhere; white-space: pre-line; } ul, ol { font-size: var(--size); } li a { color: inherit; text-decoration: underline; text-underline-offset: 2px; }
ul, ol { list-style: none; padding: 0; display: grid; gap: 7px; counter-reset: n; }
li { display: grid; grid-template-columns: 1.5em minmax(0, 1fr); } li::before { content: "•"; color: var(--mark); font-weight: 700; }
.tick li::before { content: "✓"; } .dash li::before { content: "–"; } .number li { counter-increment: n; } .number li::before { content: counter(n) "."; }
.picture.none { display: grid; place-items: center; font-size: 14px; min-height: 90px; }
.icon { display: block; line-height: 0; } .icon svg { display: inline-block; }
.divider { border: 0; align-self: center; }
.box { display: flex; flex-direction: column; min-width: 0; } .columns { display: flex; align-items: flex-start; min-width: 0; } .columns.middle { align-items: center; } .columns.last { align-items: flex-end; } .columns > * { min-width: 0; width: auto !important; }
@keyframes pulse { 50% { transform: scale(1.035); } } @keyframes nudge { 0%, 8%, 100% { transform: none; } 2%, 6% { transform: translateX(-4px); } 4% { transform: translateX(4px); } } @keyframes shine { from { background-position: 180% 0; } 40%, to { background-position: -80% 0; } }
.pause { position: absolute; inset-block-end: 8px; inset-inline-start: 8px; width: 40px; height: 40px; border: 0; border-radius: 20px; background: rgb(0 0 0 / .6); color: #fff; font-size: 13px; cursor: pointer; }
.picture video, .picture iframe { display: block; width: 100%; height: 100%; border: 0; }
@container (max-width: 600px) {
  .columns.folds { flex-direction: column; align-items: stretch; } .columns.folds > * { flex: none !important; width: 100% !important; }
}
@media (prefers-reduced-motion: no-preference) {
  .moving .pulse { animation: pulse 2.4s infinite; } .moving .nudge { animation: nudge 6s 2s infinite; } .moving .shine { background-image: linear-gradient(105deg, transparent 40%, rgb(255 255 255 / .35) 50%, transparent 60%); background-size: 200% 100%; background-repeat: no-repeat; animation: shine 4s infinite; }
}
`
