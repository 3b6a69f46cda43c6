import { Combobox, ComboboxInput, ComboboxOption, ComboboxOptions } from '@headlessui/react'
import { useId } from 'react'
import { CONTROL, PANEL, PANEL_LINE } from './control-look'
import { type Label, Labelled } from './Field'

const MOST_OFFERED = 12

interface Props {
  label: string
  value: string
  onChange: (text: string) => void
  /** Words that were given before. */
  known: readonly string[]
  placeholder?: string
  className?: string
  id?: string
}

/** Free text, with words that were given before offered while one is typed. */
export function TextChoice({ label, value, onChange, known, placeholder, className = '', id }: Props) {
  const typed = value.trim().toLowerCase()
  const offered = [...new Set(known)]
    .filter(w => w !== '' && w.toLowerCase().includes(typed) && w !== value)
    .slice(0, MOST_OFFERED)
  return (
    <Combobox immediate value={value} onChange={(text: string | null) => onChange(text ?? '')}>
      <ComboboxInput
        id={id}
        aria-label={id ? undefined : label}
        className={`${CONTROL} ${className}`}
        placeholder={placeholder}
        autoComplete="off"
        onChange={event => onChange(event.target.value)}
      />
      <ComboboxOptions
        modal={false}
        anchor={{ to: 'bottom start', padding: 8 }}
        className={`min-w-(--input-width) ${PANEL} empty:hidden`}
      >
        {offered.map(word => (
          <ComboboxOption key={word} value={word} className={PANEL_LINE}>
            <span className="pl-2">{word}</span>
          </ComboboxOption>
        ))}
      </ComboboxOptions>
    </Combobox>
  )
}

export function TextChoiceField({ hint, error, ...props }: Props & Omit<Label, 'label'>) {
  const id = useId()
  return (
    <Labelled id={id} label={props.label} hint={hint} error={error}>
      <TextChoice {...props} id={id} className={`w-full ${props.className ?? ''}`} />
    </Labelled>
  )
}
