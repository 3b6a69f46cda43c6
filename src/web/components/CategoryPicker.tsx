import { Popover, PopoverButton, PopoverPanel } from '@headlessui/react'
import { ChevronDown, ChevronRight } from 'lucide-react'
import type { Category } from '#shared/contracts/items.contract'

interface Props {
  categories: readonly Category[]
  /** Items of the present view under each category. */
  counts: Readonly<Record<string, number>>
  value: string
  onChange: (path: string) => void
}

export const categoryTrail = (categories: readonly Category[], path: string): Category[] =>
  categories.filter(c => path === c.path || path.startsWith(`${c.path}.`))

/** The way from the top to where one stands; each step goes back there, and the last opens the tree. */
export function CategoryPicker({ categories, counts, value, onChange }: Props) {
  const trail = categoryTrail(categories, value)
  return (
    <nav aria-label="Category" className="flex min-w-0 shrink-0 items-center gap-1">
      {[{ path: '', title: 'Everything' }, ...trail].slice(0, -1).map(c => (
        <span key={c.path} className="flex items-center gap-1">
          <button
            type="button"
            className="rounded-sm px-1 text-quiet hover:text-ink hover:underline"
            onClick={() => onChange(c.path)}
          >
            {c.title}
          </button>
          <ChevronRight aria-hidden className="size-3.5 text-quiet" />
        </span>
      ))}
      <Popover>
        <PopoverButton className="flex h-8 items-center gap-1 rounded-sm px-1.5 font-medium hover:bg-mount">
          {trail.at(-1)?.title ?? 'Everything'}
          <ChevronDown aria-hidden className="size-3.5" />
        </PopoverButton>
        <PopoverPanel
          anchor="bottom start"
          className="z-40 mt-1 max-h-[70vh] w-72 overflow-auto rounded-sm border border-line bg-sheet py-1 shadow-lg"
        >
          {({ close }) => (
            <ul>
              {[{ path: '', title: 'Everything' }, ...categories].map(c => {
                const depth = c.path === '' ? 0 : c.path.split('.').length
                const count = c.path === '' ? undefined : (counts[c.path] ?? 0)
                return (
                  <li key={c.path}>
                    <button
                      type="button"
                      aria-current={c.path === value}
                      onClick={() => {
                        onChange(c.path)
                        close()
                      }}
                      className={`flex w-full items-center py-1 pr-3 text-left hover:bg-mount ${c.path === value ? 'font-semibold' : ''} ${count === 0 ? 'text-quiet' : ''}`}
                      style={{ paddingLeft: `${0.75 + Math.max(0, depth - 1) * 1}rem` }}
                    >
                      <span className={depth <= 1 ? 'font-medium' : ''}>{c.title}</span>
                      {count !== undefined && <span className="figures ml-auto text-xs text-quiet">{count}</span>}
                    </button>
                  </li>
                )
              })}
            </ul>
          )}
        </PopoverPanel>
      </Popover>
    </nav>
  )
}
