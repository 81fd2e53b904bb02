import type { h as create, Component as Real } from 'preact'

// Stands in for Preact in scripts that draw with a renderer's Preact rather
// than bring their own (see vite.page.config.ts): what is asked of it here is
// done by the one that was given.

let h: typeof create

export class Component {
  context: unknown
  constructor(
    public props: unknown,
    context: unknown,
  ) {
    this.context = context
  }
}

/** Says which Preact is meant. */
export function give(preact: { h: typeof create; Component: typeof Real }) {
  h = preact.h
  Object.setPrototypeOf(Component.prototype, preact.Component.prototype)
}

const jsx = (type: never, props: object, key?: string) => h(type, (key === undefined ? props : { ...props, key }) as never)

export { jsx, jsx as jsxs }
export const Fragment = (props: { children: unknown }) => props.children
