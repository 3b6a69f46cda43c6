import { type Control, type FieldPath, type FieldPathValue, type FieldValues, useController } from 'react-hook-form'
import type { Category } from '#shared/contracts/items.contract'
import { CategoryField } from './CategoryChoice'
import { CheckBox } from './CheckBox'
import { ChoiceField, type Option } from './Choice'
import type { Label } from './Field'

/** Controls of a form that are no inputs of the browser's, so that the form holds their values itself. */
interface Bound<V extends FieldValues, N extends FieldPath<V>> extends Omit<Label, 'error'> {
  // biome-ignore lint/suspicious/noExplicitAny: what a form makes of its values is no concern of a field
  control: Control<V, any, any>
  name: N
  disabled?: boolean
}

export function FormChoice<V extends FieldValues, N extends FieldPath<V>>({
  control,
  name,
  options,
  ...label
}: Bound<V, N> & { options: readonly Option<FieldPathValue<V, N> & string>[] }) {
  const { field, fieldState } = useController({ control, name })
  return (
    <ChoiceField
      {...label}
      value={field.value}
      onChange={field.onChange}
      options={options as readonly Option[]}
      error={fieldState.error?.message}
    />
  )
}

export function FormCategory<V extends FieldValues, N extends FieldPath<V>>({
  control,
  name,
  ...label
}: Bound<V, N> & { categories: readonly Category[] }) {
  const { field, fieldState } = useController({ control, name })
  return <CategoryField {...label} value={field.value} onChange={field.onChange} error={fieldState.error?.message} />
}

export function FormCheck<V extends FieldValues, N extends FieldPath<V>>({ control, name, label, disabled }: Bound<V, N>) {
  const { field } = useController({ control, name })
  return <CheckBox label={label} checked={field.value === true} onChange={field.onChange} disabled={disabled} />
}
