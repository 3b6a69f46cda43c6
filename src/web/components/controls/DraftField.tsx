import { useEffect, useState } from 'react'
import { CONTROL } from './control-look'

interface Props {
  label: string
  value: string
  disabled?: boolean
  className?: string
  placeholder?: string
  onSettle: (text: string) => void
}

/** A field that keeps what is typed until Enter or leaving; Escape takes it back. */
export function DraftField({ label, value, disabled, className = '', placeholder, onSettle }: Props) {
  const [text, setText] = useState(value)
  useEffect(() => setText(value), [value])
  const settle = () => {
    if (text.trim() !== value) onSettle(text.trim())
  }
  return (
    <input
      aria-label={label}
      value={text}
      placeholder={placeholder}
      disabled={disabled}
      onChange={event => setText(event.target.value)}
      onBlur={settle}
      onKeyDown={event => {
        if (event.key === 'Enter') event.currentTarget.blur()
        if (event.key === 'Escape') setText(value)
      }}
      className={`${CONTROL} ${className}`}
    />
  )
}
