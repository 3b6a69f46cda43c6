import { type ReactNode, startTransition, useEffect, useState } from 'react'

/** What stands beside what one came for: made once that is on the screen, and given way to whatever is done meanwhile. */
export function AfterPaint({ children }: { children: ReactNode }) {
  const [isThere, setIsThere] = useState(false)
  useEffect(() => {
    const frame = requestAnimationFrame(() => startTransition(() => setIsThere(true)))
    return () => cancelAnimationFrame(frame)
  }, [])
  return isThere && children
}
