import { useEffect, useRef } from 'react'

/** Inputs that take no letters: of the keys only those that move or press them are theirs. */
const WITHOUT_LETTERS = ['checkbox', 'radio', 'range', 'button', 'file']

/** Whether a key belongs to what has the focus. */
const isTyping = (target: EventTarget | null, key: string): boolean => {
  if (!(target instanceof HTMLElement)) return false
  if (target instanceof HTMLInputElement && WITHOUT_LETTERS.includes(target.type)) return key === ' ' || key.length > 1
  return target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName)
}

/** Calls back on a plain key press anywhere but in a field. */
export function useKey(key: string, onPress: (event: KeyboardEvent) => void): void {
  const latest = useRef(onPress)
  latest.current = onPress
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (event.key === key && !event.ctrlKey && !event.metaKey && !event.altKey && !isTyping(event.target, key))
        latest.current(event)
    }
    window.addEventListener('keydown', listen)
    return () => window.removeEventListener('keydown', listen)
  }, [key])
}
