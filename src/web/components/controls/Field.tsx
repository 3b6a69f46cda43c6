import type { InputHTMLAttributes, ReactNode, Ref } from 'react'
import { useId } from 'react'
import { CONTROL } from './control-look'

export interface Label {
  label: string
  error?: string
  hint?: string
}

interface LabelledProps extends Label {
  /** Of the input that the label names; what names itself has none. */
  id?: string
  children: ReactNode
}

/** A control under its label, with what is wrong with it or a hint below. */
export function Labelled({ id, label, error, hint, children }: LabelledProps) {
  return (
    <div className="flex min-w-0 flex-col gap-1">
      {id ? (
        <label htmlFor={id} className="text-xs text-quiet">
          {label}
        </label>
      ) : (
        <span aria-hidden className="text-xs text-quiet">
          {label}
        </span>
      )}
      {children}
      {error ? (
        <p id={id && `${id}-error`} role="alert" className="text-xs font-semibold">
          {error}
        </p>
      ) : (
        hint && <p className="text-xs text-quiet">{hint}</p>
      )}
    </div>
  )
}

interface TextFieldProps extends Label, Omit<InputHTMLAttributes<HTMLInputElement>, 'onChange'> {
  onChange?: InputHTMLAttributes<HTMLInputElement>['onChange']
  /** Stands behind what is typed. */
  unit?: string
  ref?: Ref<HTMLInputElement>
}

/** A line of text; with a unit it holds a figure, which stands at the right. */
export function TextField({ label, error, hint, unit, ref, className = '', ...rest }: TextFieldProps) {
  const id = useId()
  return (
    <Labelled id={id} {...{ label, error, hint }}>
      <span className="relative block">
        <input
          id={id}
          ref={ref}
          className={`${CONTROL} w-full ${unit ? 'figures pr-10 text-right' : ''} ${className}`}
          inputMode={unit ? 'decimal' : undefined}
          aria-invalid={error ? true : undefined}
          aria-describedby={error ? `${id}-error` : undefined}
          {...rest}
        />
        {unit && (
          <span aria-hidden className="pointer-events-none absolute top-1.5 right-2 text-xs text-quiet">
            {unit}
          </span>
        )}
      </span>
    </Labelled>
  )
}
