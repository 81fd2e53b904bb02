import type { h as create, Component as Real } from 'preact'
import type { DrawnBlock as Block, Written as Words } from './blocks'

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

/** What a renderer gives to the scripts that draw with it. */
export interface Given {
  h: typeof create
  Component: typeof Real
  DrawnBlock: typeof Block
  Written: typeof Words
}

export let DrawnBlock: Given['DrawnBlock']
export let Written: Given['Written']

/** Says which Preact is meant, and what draws the blocks within blocks. */
export function give(given: Given) {
  h = given.h
  DrawnBlock = given.DrawnBlock
  Written = given.Written
  Object.setPrototypeOf(Component.prototype, given.Component.prototype)
}

const jsx = (type: never, props: object, key?: string) => h(type, (key === undefined ? props : { ...props, key }) as never)

export { jsx, jsx as jsxs }
export const Fragment = (props: { children: unknown }) => props.children
