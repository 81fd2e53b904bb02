import type { h as create } from 'preact'

// Stands in for Preact's own JSX in scripts that draw with a renderer's Preact
// rather than bring their own (see vite.page.config.ts).

export const given = {} as { h: typeof create }

const jsx = (type: never, props: object, key?: string) => given.h(type, (key === undefined ? props : { ...props, key }) as never)
export { jsx, jsx as jsxs }
export const Fragment = (props: { children: unknown }) => props.children
