import type { Category } from '#shared/contracts/items.contract'
import { INPUT } from './Field'

export interface Option<V extends string = string> {
  value: V
  text: string
  disabled?: boolean
}

interface Props<V extends string> {
  /** Its name for who hears the page; what stands beside it says the same to who sees it. */
  label: string
  value: V
  options: readonly Option<V>[]
  onChange: (value: V) => void
  /** Plain has no frame until it is pointed at: for what is read more often than it is changed. */
  variant?: 'framed' | 'plain'
  className?: string
  disabled?: boolean
  title?: string
}

const VARIANTS = {
  framed: INPUT,
  plain: 'h-6 min-w-0 rounded-sm border border-transparent bg-transparent hover:border-line',
}

/** One of a few, in a tool line or a row; in a form with its label above it is `SelectField`. */
export function Choice<V extends string>({ label, options, onChange, variant = 'framed', className = '', ...rest }: Props<V>) {
  return (
    <select
      aria-label={label}
      className={`${VARIANTS[variant]} ${className}`}
      onChange={event => onChange(event.target.value as V)}
      {...rest}
    >
      <Options of={options} />
    </select>
  )
}

/** What a `Choice` or a `SelectField` lets one choose from. */
export const Options = ({ of }: { of: readonly Option[] }) =>
  of.map(({ value, text, disabled }) => (
    <option key={value} value={value} disabled={disabled}>
      {text}
    </option>
  ))

/** Options from what a set of words says of each value. */
export const optionsOf = <V extends string>(values: readonly V[], words: Readonly<Record<V, string>>): Option<V>[] =>
  values.map(value => ({ value, text: words[value] }))

/** Places of the house tree, those below the first level set in. */
export const categoryOptions = (categories: readonly Category[]): Option[] =>
  categories.map(c => ({ value: c.path, text: c.path.includes('.') ? `\u2003${c.title}` : c.title }))
