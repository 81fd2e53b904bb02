import { type RefObject, useEffect, useLayoutEffect, useRef } from 'react'

/** Where what had the keyboard in a list has gone, `next` says what has it now: it is told which of the list's buttons that was, from 0. */
export function useKeptFocus(list: RefObject<HTMLElement | null>, next: (at: number) => HTMLElement | null | undefined) {
  const had = useRef<{ element: Element; at: number }>(null)
  useEffect(() => {
    const note = ({ target }: FocusEvent) => {
      const element = target as HTMLButtonElement
      had.current = list.current?.contains(element) ? { element, at: [...list.current.querySelectorAll('button')].indexOf(element) } : null
    }
    document.addEventListener('focusin', note)
    return () => document.removeEventListener('focusin', note)
  }, [list])
  useLayoutEffect(() => {
    if (had.current && !had.current.element.isConnected && document.activeElement === document.body) next(had.current.at)?.focus()
  })
}
