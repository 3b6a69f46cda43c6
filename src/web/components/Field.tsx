import type { InputHTMLAttributes, ReactNode, Ref, SelectHTMLAttributes } from 'react'
import { useId } from 'react'

export const INPUT =
  'h-8 min-w-0 rounded-sm border border-line bg-mount px-2 placeholder:text-quiet/80 focus-visible:border-ink disabled:opacity-50'

interface Shell {
  label: string
  error?: string
  hint?: string
}

function Labelled({ id, label, error, hint, children }: Shell & { id: string; children: ReactNode }) {
  return (
    <div className="flex flex-col gap-1">
      <label htmlFor={id} className="text-xs text-quiet">
        {label}
      </label>
      {children}
      {error ? (
        <p id={`${id}-error`} role="alert" className="text-xs font-semibold">
          {error}
        </p>
      ) : (
        hint && <p className="text-xs text-quiet">{hint}</p>
      )}
    </div>
  )
}

export function TextField({
  label,
  error,
  hint,
  ref,
  ...rest
}: Shell & InputHTMLAttributes<HTMLInputElement> & { ref?: Ref<HTMLInputElement> }) {
  const id = useId()
  return (
    <Labelled id={id} {...{ label, error, hint }}>
      <input
        id={id}
        ref={ref}
        className={`${INPUT} w-full`}
        aria-invalid={error ? true : undefined}
        aria-describedby={error ? `${id}-error` : undefined}
        {...rest}
      />
    </Labelled>
  )
}

export function SelectField({
  label,
  error,
  hint,
  ref,
  ...rest
}: Shell & SelectHTMLAttributes<HTMLSelectElement> & { ref?: Ref<HTMLSelectElement> }) {
  const id = useId()
  return (
    <Labelled id={id} {...{ label, error, hint }}>
      <select id={id} ref={ref} className={`${INPUT} w-full`} {...rest} />
    </Labelled>
  )
}
