import type { ReactNode } from 'react'
import { toProblem } from '../state/api'
import { Button } from './controls/Button'

/** A place with nothing in it says what to do. */
export function EmptyState({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="mx-auto flex max-w-md flex-col items-center gap-2 px-6 py-20 text-center">
      <p className="text-lg font-medium">{title}</p>
      <div className="text-quiet">{children}</div>
    </div>
  )
}

/** What went wrong, and the way on. */
export function Trouble({ error, onRetry }: { error: unknown; onRetry?: () => void }) {
  return (
    <div role="alert" className="mx-auto flex max-w-md flex-col items-center gap-3 px-6 py-20 text-center">
      <p>{toProblem(error).message}</p>
      {onRetry && <Button onClick={onRetry}>Try again</Button>}
    </div>
  )
}

/** Grey bars at the size of what is coming. */
export const Skeleton = ({ className = '' }: { className?: string }) => (
  <div aria-hidden className={`animate-pulse rounded-sm bg-sheet ${className}`} />
)

export function Progress({ share, label }: { share: number; label: string }) {
  return (
    <div
      role="progressbar"
      aria-label={label}
      aria-valuenow={Math.round(share * 100)}
      aria-valuemin={0}
      aria-valuemax={100}
      className="h-1.5 w-full overflow-hidden rounded-full bg-line/60"
    >
      <div className="h-full bg-ink transition-[width]" style={{ width: `${Math.round(share * 100)}%` }} />
    </div>
  )
}
