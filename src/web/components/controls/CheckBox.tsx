import { Checkbox, Field, Label } from '@headlessui/react'
import { Check, Minus } from 'lucide-react'
import { useRef } from 'react'

interface Props {
  label: string
  /** Only for who hears the page, where what stands beside it says the same. */
  isLabelHidden?: boolean
  checked: boolean
  /** Some of what it stands for, and not all. */
  isPartly?: boolean
  disabled?: boolean
  /** With whether Shift was held, for ranges. */
  onChange: (checked: boolean, withShift: boolean) => void
  className?: string
}

export function CheckBox({ label, isLabelHidden, checked, isPartly = false, disabled, onChange, className = '' }: Props) {
  const withShift = useRef(false)
  const box = (
    <Checkbox
      checked={checked}
      indeterminate={isPartly && !checked}
      disabled={disabled}
      onPointerDown={event => {
        withShift.current = event.shiftKey
      }}
      onKeyDown={event => {
        withShift.current = event.shiftKey
      }}
      onChange={next => onChange(next, withShift.current)}
      aria-label={isLabelHidden ? label : undefined}
      className="group inline-flex size-4 shrink-0 items-center justify-center rounded-[3px] border border-edge bg-mount hover:border-ink data-checked:bg-ink data-checked:text-mount data-disabled:opacity-45 data-indeterminate:bg-ink data-indeterminate:text-mount"
    >
      {isPartly && !checked ? (
        <Minus aria-hidden className="size-3" strokeWidth={3} />
      ) : (
        <Check aria-hidden className="invisible size-3 group-data-checked:visible" strokeWidth={3} />
      )}
    </Checkbox>
  )
  if (isLabelHidden) return <span className={`inline-flex ${className}`}>{box}</span>
  return (
    <Field disabled={disabled} className={`inline-flex items-center gap-2 ${className}`}>
      {box}
      <Label className="cursor-pointer data-disabled:opacity-45">{label}</Label>
    </Field>
  )
}
