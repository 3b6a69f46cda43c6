import type { PinQuantity, ScheduleRow } from '#shared/contracts/schedules.contract'
import { parseNumber } from '../../../components/controls/parse-number'

/** A unit that spreadsheets have behind a figure. */
const UNIT = /\s*(m²|m2|sqm|pcs|pc|st)\.?$/i

/**
 * A column that was pasted, one figure a line, put to the rows from one on; an empty line takes back what was typed. What has no pin is passed over.
 * @returns `unread`: lines that are no figures, or no whole pieces
 */
export function fillDown(
  rows: readonly ScheduleRow[],
  first: ScheduleRow,
  text: string,
): { quantities: PinQuantity[]; unread: string[] } {
  const lines = text.replace(/\r\n?/g, '\n').replace(/\n$/, '').split('\n')
  const to = rows.slice(rows.indexOf(first)).filter(r => r.pin)
  const quantities: PinQuantity[] = []
  const unread: string[] = []
  for (const [k, line] of lines.slice(0, to.length).entries()) {
    const plain = line.split('\t')[0].trim().replace(UNIT, '')
    const amount = plain === '' ? null : parseNumber(plain)
    const { pin, unit } = to[k]
    if (amount !== null && (Number.isNaN(amount) || amount < 0 || (unit === 'pieces' && !Number.isInteger(amount))))
      unread.push(line)
    else quantities.push({ itemId: pin!.itemId, amount })
  }
  return unread.length > 0 ? { quantities: [], unread } : { quantities, unread }
}
