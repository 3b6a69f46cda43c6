import { ChevronRight } from 'lucide-react'
import type { Category } from '#shared/contracts/items.contract'
import { CategoryChoice } from './controls/CategoryChoice'

interface Props {
  categories: readonly Category[]
  /** Items of the present view under each category. */
  counts: Readonly<Record<string, number>>
  value: string
  onChange: (path: string) => void
}

export const categoryTrail = (categories: readonly Category[], path: string): Category[] =>
  categories.filter(c => path === c.path || path.startsWith(`${c.path}.`))

/**
 * The way from the top to where one stands, where there is room for it; each step goes back there, and in the last one another is found.
 */
export function CategoryPicker({ categories, counts, value, onChange }: Props) {
  const trail = categoryTrail(categories, value)
  return (
    <nav aria-label="Category" className="flex min-w-0 shrink-0 items-center gap-1">
      {[{ path: '', title: 'Everything' }, ...trail].slice(0, -1).map(c => (
        <span key={c.path} className="flex items-center gap-1 max-[1500px]:hidden">
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
      <CategoryChoice
        label="Category, to choose another"
        variant="plain"
        className="w-28 font-medium min-[1400px]:w-36"
        categories={categories}
        counts={counts}
        none="Everything"
        value={value}
        onChange={onChange}
      />
    </nav>
  )
}
