import { defaultPreset, StyleInjector } from '@dnd-kit/dom'

const nonce = document.querySelector<HTMLMetaElement>('meta[property=csp-nonce]')?.nonce ?? ''

/** Dragging under the studio's Content-Security-Policy. */
export const sorting = [...defaultPreset.plugins.filter(p => p !== StyleInjector), StyleInjector.configure({ nonce })] as never
