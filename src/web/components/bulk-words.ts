import { toast } from 'sonner'
import type { BulkResult } from '#shared/contracts/items.contract'
import { toProblem } from '../state/api'

/** Says what a bulk action did, and names what it did not do with the reason. */
export function tellBulk(
  done: (count: number) => string,
  { changed, refused }: BulkResult,
  action?: { label: string; onClick: () => void },
): void {
  if (changed.length > 0) toast.success(done(changed.length), { action })
  if (refused.length === 0) return
  const named = refused
    .slice(0, 3)
    .map(r => `${r.code}: ${r.reason}`)
    .join(' ')
  toast.warning(`${refused.length} not done. ${named}${refused.length > 3 ? ` And ${refused.length - 3} more.` : ''}`)
}

export const tellProblem = (error: unknown): void => {
  toast.error(toProblem(error).message)
}
