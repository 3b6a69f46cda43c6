import { useMemo, useRef } from 'react'

/**
 * Actions that stay the same functions while what they do is always the newest: a row that is handed them is not rendered again because
 * something else of the page changed.
 */
// biome-ignore lint/suspicious/noExplicitAny: any function is an action
export function useStableActions<A extends Record<keyof A, (...rest: any[]) => unknown>>(newest: A): A {
  const held = useRef(newest)
  held.current = newest
  return useMemo(() => {
    const names = Object.keys(held.current) as (keyof A)[]
    return Object.fromEntries(names.map(name => [name, (...rest: unknown[]) => held.current[name](...rest)])) as unknown as A
  }, [])
}
