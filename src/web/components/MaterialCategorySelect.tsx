import { useListCategoriesQuery } from '../state/api'
import { INPUT } from './Field'

interface Props {
  value: string
  onChange: (path: string) => void
}

/** A place of the house tree that holds materials, or all of them. */
export function MaterialCategorySelect({ value, onChange }: Props) {
  const { data: categories = [] } = useListCategoriesQuery()
  return (
    <select aria-label="Category" className={INPUT} value={value} onChange={e => onChange(e.target.value)}>
      <option value="">all materials</option>
      {categories
        .filter(c => c.kind === 'material')
        .map(c => (
          <option key={c.path} value={c.path}>
            {c.title} {c.count}
          </option>
        ))}
    </select>
  )
}
