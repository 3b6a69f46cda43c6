import { useEffect, useState } from 'react'
import { CONTROL } from '../../components/controls/control-look'

interface Props {
  value: string
  isReadOnly: boolean
  /** When it is left with another text. */
  onSettle: (text: string) => void
}

/** What colleagues should know of a project, as running text. */
export function NotesField({ value, isReadOnly, onSettle }: Props) {
  const [draft, setDraft] = useState(value)
  useEffect(() => setDraft(value), [value])
  return (
    <label className="flex flex-col gap-1">
      <span>Notes</span>
      <textarea
        value={draft}
        readOnly={isReadOnly}
        rows={4}
        placeholder={isReadOnly ? 'none' : 'What colleagues should know'}
        onChange={event => setDraft(event.target.value)}
        onBlur={() => draft !== value && onSettle(draft)}
        className={`${CONTROL} !h-auto w-full resize-y py-1.5 leading-snug`}
      />
    </label>
  )
}
