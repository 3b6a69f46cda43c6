import type { ReactNode } from 'react'

/** A place that scrolls as one page; it takes the focus, so that keys scroll it even where nothing in it can be clicked. */
export function Page({ children }: { children: ReactNode }) {
  return (
    // biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by keyboard (WCAG 2.1.1)
    <div tabIndex={0} className="h-full overflow-auto px-6 py-5 focus-visible:outline-none">
      {children}
    </div>
  )
}
