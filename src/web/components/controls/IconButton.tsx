import type { ReactNode } from 'react'

const LOOKS = {
  framed: 'size-8 border border-edge bg-mount hover:border-ink disabled:opacity-45',
  bare: 'size-8 hover:bg-mount disabled:opacity-35 disabled:hover:bg-transparent',
  small: 'size-6 hover:bg-mount',
}

interface Props {
  /** What it does; read out, and shown where the pointer rests. */
  label: string
  look: keyof typeof LOOKS
  onClick: () => void
  disabled?: boolean
  children: ReactNode
}

/** A button that is a picture only. */
export const IconButton = ({ label, look, onClick, disabled, children }: Props) => (
  <button
    type="button"
    aria-label={label}
    title={label}
    disabled={disabled}
    onClick={onClick}
    className={`flex items-center justify-center rounded-sm ${LOOKS[look]}`}
  >
    {children}
  </button>
)
