import type { ButtonHTMLAttributes, Ref } from 'react'

interface Props extends ButtonHTMLAttributes<HTMLButtonElement> {
  /** `next` is the one thing to do on this screen. */
  variant?: 'plain' | 'next' | 'bare'
  ref?: Ref<HTMLButtonElement>
}

const VARIANTS = {
  plain: 'border border-edge bg-mount hover:border-ink',
  next: 'bg-accent text-on-accent font-semibold border border-transparent hover:brightness-105',
  bare: 'border border-transparent hover:bg-mount',
}

export function Button({ variant = 'plain', className = '', type = 'button', ...rest }: Props) {
  return (
    <button
      type={type}
      className={`inline-flex h-8 shrink-0 items-center gap-1.5 rounded-sm px-3 whitespace-nowrap disabled:cursor-default disabled:opacity-45 ${VARIANTS[variant]} ${className}`}
      {...rest}
    />
  )
}
