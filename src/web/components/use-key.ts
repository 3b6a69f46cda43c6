import { useEffect, useRef } from 'react'

const isTyping = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement && (target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName))

/** Calls back on a plain key press anywhere but in a field. */
export function useKey(key: string, onPress: (event: KeyboardEvent) => void): void {
  const latest = useRef(onPress)
  latest.current = onPress
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (event.key === key && !event.ctrlKey && !event.metaKey && !event.altKey && !isTyping(event.target)) latest.current(event)
    }
    window.addEventListener('keydown', listen)
    return () => window.removeEventListener('keydown', listen)
  }, [key])
}
