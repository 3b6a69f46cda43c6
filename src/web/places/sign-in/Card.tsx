import type { ReactNode } from 'react'

/** The one sheet on the page of somebody who is not in yet. */
export function Card({ title, subtitle, children }: { title?: string; subtitle: string; children: ReactNode }) {
  return (
    <main className="flex min-h-full items-center justify-center p-8">
      <div className="w-full max-w-md rounded-sm bg-sheet p-8 shadow-sm">
        <h1 className="mb-1 flex items-center gap-2.5 text-2xl font-semibold tracking-tight">
          <img src="/icon.svg" alt="" className="size-7" />
          {title ?? 'Muscovite'}
        </h1>
        <p className="mb-6 text-quiet">{subtitle}</p>
        {children}
      </div>
    </main>
  )
}
