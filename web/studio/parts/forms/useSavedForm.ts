import { useEffect, useState, useSyncExternalStore } from 'react'
import { type FieldValues, useForm } from 'react-hook-form'
import { copiesOf, leftCopies } from './copies'
import { type OnServer, SavedForm } from './savedForm'

// Forms of this window. One that is left with something typed is there again
// when its screen is.
const forms = new Map<string, SavedForm<FieldValues>>()

/**
 * A form of something the server has, under a name that is unique in this
 * browser. How it is saved and fetched is told when it is first made.
 */
export function useSavedForm<T extends FieldValues>(
  name: string,
  onServer: OnServer<T>,
  { send, fetch }: { send(version: number | string, values: T): Promise<OnServer<T>>; fetch(): Promise<OnServer<T>> },
) {
  const [saved] = useState(() => {
    const key = `form:${name}`
    const there = forms.get(key) as SavedForm<T> | undefined
    if (there) return there
    const made = new SavedForm<T>(onServer, { send, fetch, copies: copiesOf<T>(key), now: Date.now })
    forms.set(key, made as unknown as SavedForm<FieldValues>)
    leftCopies<T>(key, values => typeof values === 'object').then(([newest]) => newest && made.adopt(newest))
    return made
  })
  const standing = useSyncExternalStore(saved.subscribe, () => saved.standing)
  const form = useForm<T>({ formControl: saved.form.formControl })
  useEffect(() => saved.arrived(onServer), [onServer.version])
  return { saved, standing, form }
}
