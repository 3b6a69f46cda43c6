import type { KeyboardEvent } from 'react'
import type { ScheduleRow } from '#shared/contracts/schedules.contract'
import { formatNumber } from '#shared/units'
import { NumberInput } from '../../../components/controls/NumberInput'

interface Props {
  row: ScheduleRow
  pin: NonNullable<ScheduleRow['pin']>
  onType: (amount: number | null) => void
  /** A whole column was pasted; says whether it was taken. */
  onPaste: (text: string) => boolean
}

const MARK = 'data-quantity'

/** How much of a pin is needed. Enter and the arrows go from line to line; a column of a spreadsheet is pasted from here on. */
export function QuantityCell({ row: { name, unit }, pin: { typed, measured }, onType, onPaste }: Props) {
  const isArea = unit === 'm2'
  const goOn = (event: KeyboardEvent<HTMLElement>) => {
    const step =
      event.key === 'ArrowUp' || (event.key === 'Enter' && event.shiftKey)
        ? -1
        : event.key === 'ArrowDown' || event.key === 'Enter'
          ? 1
          : 0
    if (step === 0) return
    event.preventDefault()
    event.stopPropagation()
    const inputs = [...document.querySelectorAll<HTMLInputElement>(`[${MARK}] input`)]
    const next = inputs[inputs.indexOf(event.target as HTMLInputElement) + step]
    // Leaving it takes what was typed.
    if (next) next.select()
    else (event.target as HTMLInputElement).blur()
    next?.focus()
  }
  return (
    <span
      className="block"
      {...{ [MARK]: '' }}
      onKeyDownCapture={goOn}
      onPasteCapture={event => {
        const text = event.clipboardData.getData('text/plain')
        if (/[\n\r\t]/.test(text.trim()) && onPaste(text)) {
          event.preventDefault()
          event.stopPropagation()
        }
      }}
    >
      <NumberInput
        label={`Quantity of ${name}`}
        unit={isArea ? 'm²' : 'pcs'}
        digits={isArea ? 2 : 0}
        min={0}
        max={1e7}
        value={typed}
        placeholder={measured === null ? '' : formatNumber(measured, isArea ? 2 : 0)}
        onSettle={onType}
        className="w-28"
      />
      <span className="block pt-0.5 text-xs text-quiet">
        {typed !== null && measured !== null
          ? `measured ${formatNumber(measured, isArea ? 2 : 0)}`
          : typed === null && measured !== null
            ? 'measured'
            : ''}
      </span>
    </span>
  )
}
