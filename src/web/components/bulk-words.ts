import { toast } from 'sonner'
import type { BulkResult } from '#shared/contracts/items.contract'
import { toProblem } from '../state/api'
import { sayRefused } from '../words/refused'

/** Says what a bulk action did, and names what it did not do with the reason. */
export function tellBulk(
  done: (count: number) => string,
  { changed, refused }: BulkResult,
  action?: { label: string; onClick: () => void },
): void {
  if (refused.length === 0) {
    if (changed.length > 0) toast.success(done(changed.length), { action })
  } else if (changed.length === 0) toast.warning(sayRefused(refused))
  // One message, so that neither half hides the other, nor the way back.
  else toast.warning(done(changed.length), { description: sayRefused(refused), action })
}

export const tellProblem = (error: unknown): void => {
  toast.error(toProblem(error).message)
}
