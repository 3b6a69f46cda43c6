import type { BatchItem } from '#shared/contracts/intake.contract'
import { formatNumber } from '#shared/units'
import { Choice } from '../../../../components/controls/Choice'
import { NumberInput } from '../../../../components/controls/NumberInput'
import { useFrozen, useWorklist } from '../state/worklist-context'

const TILING_OPTIONS = [
  { value: 'repeat', text: 'repeats' },
  { value: 'once', text: 'stands once' },
] as const

/** How wide one repeat of a material is in the real world. */
export function RowWidth({ item }: { item: BatchItem }) {
  const { actions } = useWorklist()
  const frozen = useFrozen(item)
  if (item.kind !== 'material' || item.files.every(f => f.role === 'definition')) return <span />
  if (frozen)
    return (
      <p className="text-right tabular-nums">
        {item.widthMm === null ? '' : `${formatNumber(item.widthMm)} mm`}
        <span className="block text-xs text-quiet">{TILING_OPTIONS.find(o => o.value === item.tiling)?.text}</span>
      </p>
    )
  return (
    <div>
      <NumberInput
        label={`Repeat width of ${item.name}`}
        unit="mm"
        min={0.001}
        max={100_000}
        value={item.widthMm}
        isMissing={item.needsWidth}
        className="w-full"
        onSettle={widthMm => actions.onChange(item.id, { widthMm })}
      />
      <Choice
        label={`Whether ${item.name} repeats`}
        variant="plain"
        className="mt-0.5 -ml-1 text-xs text-quiet"
        value={item.tiling}
        onChange={tiling => actions.onChange(item.id, { tiling })}
        options={TILING_OPTIONS}
      />
    </div>
  )
}
