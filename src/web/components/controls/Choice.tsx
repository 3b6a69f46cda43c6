import { Listbox, ListboxButton, ListboxOption, ListboxOptions } from '@headlessui/react'
import { Check, ChevronDown } from 'lucide-react'
import { CONTROLS, type ControlVariant, PANEL, PANEL_LINE } from './control-look'
import { type Label, Labelled } from './Field'

export interface Option<V extends string = string> {
  value: V
  text: string
  /** How many there are of it, at the end of its line. */
  count?: number
  disabled?: boolean
}

interface Common<V extends string> {
  /** Its name for who hears the page; what stands beside it says the same to who sees it. */
  label: string
  options: readonly Option<V>[]
  variant?: ControlVariant
  className?: string
  disabled?: boolean
  title?: string
}

interface Props<V extends string> extends Common<V> {
  value: V
  onChange: (value: V) => void
}

/** One of a few, in a tool line or a row. By keyboard: Space or an arrow opens it, arrows and first letters find, Enter takes; Escape leaves it as it was. */
export function Choice<V extends string>({ value, onChange, ...common }: Props<V>) {
  const chosen = common.options.find(o => o.value === value)
  return (
    <Listbox value={value} onChange={onChange} disabled={common.disabled}>
      <ChoiceBody {...common} shown={chosen ? chosen.text : ''} />
    </Listbox>
  )
}

interface ManyProps<V extends string> extends Common<V> {
  values: readonly V[]
  onChange: (values: V[]) => void
  /** What stands there while nothing is chosen. */
  none: string
}

/** Any of a few; the list stays open while one chooses. */
export function ManyChoice<V extends string>({ values, onChange, none, ...common }: ManyProps<V>) {
  const chosen = common.options.filter(o => values.includes(o.value))
  const shown = chosen.length === 0 ? none : chosen.map(o => o.text).join(', ')
  return (
    <Listbox value={[...values]} onChange={onChange} multiple disabled={common.disabled}>
      <ChoiceBody {...common} shown={shown} />
    </Listbox>
  )
}

function ChoiceBody<V extends string>({
  label,
  options,
  variant = 'framed',
  className = '',
  title,
  shown,
}: Common<V> & { shown: string }) {
  return (
    <>
      <ListboxButton
        aria-label={`${label}: ${shown}`}
        title={title}
        className={`inline-flex items-center gap-1 text-left ${CONTROLS[variant]} ${variant === 'plain' ? 'px-1' : ''} ${className}`}
      >
        <span className="min-w-0 flex-1 truncate">{shown}</span>
        <ChevronDown aria-hidden className="size-3.5 shrink-0 text-quiet" />
      </ListboxButton>
      <ListboxOptions modal={false} anchor={{ to: 'bottom start', padding: 8 }} className={`min-w-(--button-width) ${PANEL}`}>
        {options.map(({ value, text, count, disabled }) => (
          <ListboxOption key={value} value={value} disabled={disabled} className={`group ${PANEL_LINE}`}>
            <Check aria-hidden className="invisible size-3.5 shrink-0 group-data-selected:visible" />
            <span className="whitespace-nowrap">{text}</span>
            {count !== undefined && <span className="figures ml-auto pl-4 text-xs text-quiet">{count}</span>}
          </ListboxOption>
        ))}
      </ListboxOptions>
    </>
  )
}

/** In a form, with its label above it. */
export const ChoiceField = <V extends string>({ hint, error, ...props }: Props<V> & Omit<Label, 'label'>) => (
  <Labelled label={props.label} hint={hint} error={error}>
    <Choice {...props} className={`w-full ${props.className ?? ''}`} />
  </Labelled>
)

/** Options from what a set of words says of each value. */
export const optionsOf = <V extends string>(values: readonly V[], words: Readonly<Record<V, string>>): Option<V>[] =>
  values.map(value => ({ value, text: words[value] }))
