import { useState } from 'react'

interface Props {
  label: string
  value: string
  /** Where the pencil goes after: down a row, on to the next cell, or nowhere. */
  onDone: (value: string, then: 'down' | 'right' | 'left' | 'stay') => void
  onLeave: () => void
}

/** A cell being written: Enter keeps it and goes down, Tab keeps it and goes on, Escape leaves it as it was. */
export function CellEditor({ label, value, onDone, onLeave }: Props) {
  const [text, setText] = useState(value)
  return (
    <input
      // biome-ignore lint/a11y/noAutofocus: it was asked for by a key or a double click in this cell
      autoFocus
      aria-label={label}
      value={text}
      maxLength={200}
      onChange={event => setText(event.target.value)}
      onFocus={event => event.target.select()}
      onBlur={() => onDone(text, 'stay')}
      onPaste={event => event.stopPropagation()}
      onKeyDown={event => {
        event.stopPropagation()
        if (event.key === 'Escape') onLeave()
        else if (event.key === 'Enter') onDone(text, 'down')
        else if (event.key === 'Tab') {
          event.preventDefault()
          onDone(text, event.shiftKey ? 'left' : 'right')
        }
      }}
      className="h-full w-full bg-mount px-2 outline-2 -outline-offset-2 outline-ink"
    />
  )
}
