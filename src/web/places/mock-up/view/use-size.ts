import { type RefObject, useEffect, useState } from 'react'

/** How large something is on the page, in CSS pixels. */
export function useSize(of: RefObject<HTMLElement | null>): { width: number; height: number } {
  const [size, setSize] = useState({ width: 1, height: 1 })
  useEffect(() => {
    const element = of.current
    if (!element) return
    const measure = () => {
      const { width, height } = element.getBoundingClientRect()
      setSize(before =>
        before.width === width && before.height === height ? before : { width: Math.max(1, width), height: Math.max(1, height) },
      )
    }
    measure()
    const observer = new ResizeObserver(measure)
    observer.observe(element)
    return () => observer.disconnect()
  }, [of])
  return size
}
