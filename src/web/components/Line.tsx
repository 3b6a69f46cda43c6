import type { ReactNode } from 'react'

/** A word at the left, and what it is about at the right. */
export const Line = ({ text, children }: { text: string; children: ReactNode }) => (
  <span className="flex items-center justify-between gap-2">
    <span className="text-quiet">{text}</span>
    {children}
  </span>
)
