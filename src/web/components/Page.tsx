import type { ReactNode } from 'react'
import { Link } from 'react-router'

/** On what scrolls, for long lists in it that draw what is seen of them. */
export const PAGE_MARK = 'data-page'

/** A place that scrolls as one page; it takes the focus, so that keys scroll it even where nothing in it can be clicked. */
export function Page({ children }: { children: ReactNode }) {
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by keyboard (WCAG 2.1.1)
    <div tabIndex={0} {...{ [PAGE_MARK]: '' }} className="h-full overflow-auto px-6 pt-4 pb-8 focus-visible:outline-none">
      {children}
    </div>
  )
}

interface HeadProps {
  title: ReactNode
  /** The place it lies in. */
  from?: { to: string; text: string }
  /** What it is, beside the title. */
  facts?: ReactNode
  /** What is done with all of it, at the right: the one next step last. */
  actions?: ReactNode
  className?: string
}

/** The heading that leads a place. */
export function PageHead({ title, from, facts, actions, className = 'pb-4' }: HeadProps) {
  return (
    <header className={`flex shrink-0 flex-wrap items-end gap-x-4 gap-y-1 ${className}`}>
      <div className="min-w-0">
        {from && (
          <Link to={from.to} className="block text-xs text-quiet hover:text-ink hover:underline">
            {from.text}
          </Link>
        )}
        <h1 className="truncate text-title">{title}</h1>
      </div>
      {facts && <p className="pb-0.5 text-quiet">{facts}</p>}
      {actions && <div className="ml-auto flex items-center gap-2">{actions}</div>}
    </header>
  )
}

/** A part of a place, on a sheet of its own. */
export function Panel({
  title,
  actions,
  label,
  children,
  className = '',
}: {
  title?: ReactNode
  actions?: ReactNode
  label?: string
  children: ReactNode
  className?: string
}) {
  return (
    <section aria-label={label} className={`rounded-sm bg-sheet p-4 ${className}`}>
      {(title || actions) && (
        <div className="mb-3 flex min-h-8 items-center gap-3">
          <h2 className="text-section">{title}</h2>
          {actions && <div className="ml-auto flex items-center gap-2">{actions}</div>}
        </div>
      )}
      {children}
    </section>
  )
}
