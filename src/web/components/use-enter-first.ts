import { useEffect, useRef, useState } from 'react'

/**
 * Enter in a search field: takes the first of what is found for the words as they stand, waiting for it where it is still on its way. What was
 * found for other words is never taken.
 * @param found null while it is on its way
 */
export function useEnterFirst<T>(
  found: readonly T[] | null,
  onTake: (first: T) => void,
): { enter: () => void; forget: () => void } {
  const [isEntered, setEntered] = useState(false)
  const take = useRef(onTake)
  take.current = onTake
  useEffect(() => {
    if (!isEntered || !found) return
    setEntered(false)
    if (found.length > 0) take.current(found[0])
  }, [isEntered, found])
  return { enter: () => setEntered(true), forget: () => setEntered(false) }
}
