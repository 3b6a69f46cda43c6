import { useEffect, useState } from 'react'
import { CONTROL } from './control-look'
import { type Label, Labelled } from './Field'
import { parseNumber } from './parse-number'

interface Props {
  label: string
  value: number | null
  /** Called with what was typed when it is left or Enter is pressed; null for nothing. */
  onSettle: (value: number | null) => void
  unit?: string
  min?: number
  max?: number
  /** Digits after the point of what is shown. */
  digits?: number
  disabled?: boolean
  placeholder?: string
  /** It has to be given. */
  isMissing?: boolean
  className?: string
}

const toText = (value: number | null, digits: number | undefined): string =>
  value === null ? '' : digits === undefined ? String(value) : String(Number(value.toFixed(digits)))

/** A figure with its unit. It keeps what is typed until it is left; Escape takes it back, what is no figure or out of range is not taken. */
export function NumberInput({
  label,
  value,
  onSettle,
  unit,
  min = Number.NEGATIVE_INFINITY,
  max = Number.POSITIVE_INFINITY,
  digits,
  disabled,
  placeholder,
  isMissing = false,
  className = '',
}: Props) {
  const shown = toText(value, digits)
  const [text, setText] = useState(shown)
  const [isWrong, setWrong] = useState(false)
  useEffect(() => {
    setText(shown)
    setWrong(false)
  }, [shown])
  const settle = () => {
    if (text.trim() === shown) return setWrong(false)
    const typed = text.trim() === '' ? null : parseNumber(text)
    if (Number.isNaN(typed) || (typed !== null && (typed < min || typed > max))) return setWrong(true)
    setWrong(false)
    onSettle(typed)
  }
  return (
    <span className={`relative inline-block ${className}`}>
      <input
        aria-label={unit ? `${label}, ${unit}` : label}
        aria-invalid={isWrong || undefined}
        title={isWrong ? rangeWords(min, max) : undefined}
        value={text}
        disabled={disabled}
        placeholder={isMissing ? 'needed' : placeholder}
        inputMode="decimal"
        onChange={event => setText(event.target.value)}
        onBlur={settle}
        onKeyDown={event => {
          if (event.key === 'Enter') settle()
          if (event.key === 'Escape') {
            setText(shown)
            setWrong(false)
          }
        }}
        className={`${CONTROL} figures w-full text-right ${unit ? 'pr-9' : ''} ${isMissing || isWrong ? 'border-2 border-ink' : ''}`}
      />
      {unit && (
        <span aria-hidden className="pointer-events-none absolute top-1.5 right-2 text-xs text-quiet">
          {unit}
        </span>
      )}
    </span>
  )
}

const rangeWords = (min: number, max: number): string =>
  Number.isFinite(min) && Number.isFinite(max)
    ? `A figure from ${min} to ${max}`
    : Number.isFinite(min)
      ? `A figure of at least ${min}`
      : Number.isFinite(max)
        ? `A figure of at most ${max}`
        : 'A figure'

export const NumberField = ({ hint, error, ...props }: Props & Omit<Label, 'label'>) => (
  <Labelled label={props.label} hint={hint} error={error}>
    <NumberInput {...props} className={`w-full ${props.className ?? ''}`} />
  </Labelled>
)
