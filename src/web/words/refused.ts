import { groupBy } from '#core/group-by'
import type { BulkResult } from '#shared/contracts/items.contract'

const MOST_REASONS = 2
const MOST_CODES = 3

/** What was not done and why: items by the reason, the commonest first, each reason once. */
export function sayRefused(refused: BulkResult['refused']): string {
  const reasons = [...groupBy(refused, r => r.reason)].sort((a, b) => b[1].length - a[1].length)
  const said = reasons.slice(0, MOST_REASONS).map(([reason, items]) => {
    const codes = items.slice(0, MOST_CODES).map(i => i.code)
    const more = items.length - codes.length
    return `${codes.join(', ')}${more > 0 ? ` and ${more} more` : ''}: ${reason}`
  })
  const others = reasons.slice(MOST_REASONS).reduce((sum, [, items]) => sum + items.length, 0)
  return [`${refused.length} not done.`, ...said, ...(others > 0 ? [`And ${others} for other reasons.`] : [])].join(' ')
}
