import { Ruler } from 'lucide-react'
import { useState } from 'react'
import type { BatchItem } from '#shared/contracts/intake.contract'
import { formatNumber } from '#shared/units'
import { Choice } from '../../../../components/controls/Choice'
import { NumberInput } from '../../../../components/controls/NumberInput'
import { MeasureDialog } from '../../../../components/measure/MeasureDialog'
import { useFrozen, useWorklist } from '../state/worklist-context'

const TILING_OPTIONS = [
  { value: 'repeat', text: 'repeats' },
  { value: 'once', text: 'stands once' },
] as const

/** The file that shows how long something in it is. */
const pictureOf = ({ files }: BatchItem): string | null =>
  (files.find(f => f.role === 'baseColor' || f.role === 'map') ?? files.find(f => f.role === 'height'))?.url ?? null

/** How wide one repeat of a material, or a map, is in the real world; typed, or measured on its picture. */
export function RowWidth({ item }: { item: BatchItem }) {
  const { actions } = useWorklist()
  const frozen = useFrozen(item)
  const [isMeasuring, setMeasuring] = useState(false)
  const isMaterial = item.kind === 'material'
  if ((!isMaterial && item.kind !== 'map') || item.files.every(f => f.role === 'definition')) return <span />
  const picture = pictureOf(item)
  if (frozen)
    return (
      <p className="text-right tabular-nums">
        {item.widthMm === null ? '' : `${formatNumber(item.widthMm)} mm`}
        {isMaterial && (
          <span className="block text-xs text-quiet">{TILING_OPTIONS.find(o => o.value === item.tiling)?.text}</span>
        )}
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
      <div className="mt-0.5 flex items-center">
        {isMaterial && (
          <Choice
            label={`Whether ${item.name} repeats`}
            variant="plain"
            className="-ml-1 min-w-0 flex-1 text-xs text-quiet"
            value={item.tiling}
            onChange={tiling => actions.onChange(item.id, { tiling })}
            options={TILING_OPTIONS}
          />
        )}
        {picture && (
          <button
            type="button"
            aria-label={`Measure ${item.name} on its picture`}
            title="Measure it on its picture"
            className="ml-auto flex size-6 shrink-0 items-center justify-center rounded-sm text-quiet hover:bg-mount hover:text-ink"
            onClick={() => setMeasuring(true)}
          >
            <Ruler aria-hidden className="size-3.5" />
          </button>
        )}
      </div>
      {isMeasuring && picture && (
        <MeasureDialog
          name={item.name}
          url={picture}
          onWidth={widthMm => {
            actions.onChange(item.id, { widthMm })
            setMeasuring(false)
          }}
          onClose={() => setMeasuring(false)}
        />
      )}
    </div>
  )
}
