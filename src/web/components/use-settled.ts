import { useEffect, useState } from 'react'

/** The last value that stood unchanged for so long; the first at once. */
export function useSettled<T>(value: T, ms: number): T {
  const [settled, setSettled] = useState(value)
  const key = JSON.stringify(value)
  // biome-ignore lint/correctness/useExhaustiveDependencies: what it says counts, not which object says it
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), ms)
    return () => clearTimeout(timer)
  }, [key, ms])
  return settled
}
