import { useMemo } from 'react'
import { useListCategoriesQuery } from '../state/api'
import { CategoryChoice } from './controls/CategoryChoice'

interface Props {
  value: string
  onChange: (path: string) => void
}

/** A category of the house tree that holds materials, or all of them. */
export function MaterialCategoryChoice({ value, onChange }: Props) {
  const { data } = useListCategoriesQuery()
  const categories = useMemo(() => (data ?? []).filter(c => c.kind === 'material'), [data])
  return (
    <CategoryChoice
      label="Category"
      className="w-48"
      none="all materials"
      categories={categories}
      counts={Object.fromEntries(categories.map(c => [c.path, c.count]))}
      value={value}
      onChange={onChange}
    />
  )
}
