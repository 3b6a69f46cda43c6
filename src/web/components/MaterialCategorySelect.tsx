import { useListCategoriesQuery } from '../state/api'
import { Choice } from './Choice'

interface Props {
  value: string
  onChange: (path: string) => void
}

/** A place of the house tree that holds materials, or all of them. */
export function MaterialCategorySelect({ value, onChange }: Props) {
  const { data: categories = [] } = useListCategoriesQuery()
  return (
    <Choice
      label="Category"
      value={value}
      onChange={onChange}
      options={[
        { value: '', text: 'all materials' },
        ...categories.filter(c => c.kind === 'material').map(c => ({ value: c.path, text: `${c.title} ${c.count}` })),
      ]}
    />
  )
}
