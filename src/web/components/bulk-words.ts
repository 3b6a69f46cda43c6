import { toast } from 'sonner'
import type { BulkResult } from '#shared/contracts/items.contract'
import { toProblem } from '../state/api'
import { sendInParts } from '../state/send-in-parts'
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

/** Sends many in parts, and says how many it has come to while there is more than one part. */
export const sendTelling: typeof sendInParts = async (things, most, send) => {
  const id = 'sent in parts'
  const tell = (sent: number) => {
    if (things.length > most) toast.loading(`${sent} of ${things.length} done…`, { id })
  }
  return sendInParts(things, most, send, tell).finally(() => toast.dismiss(id))
}

export const tellProblem = (error: unknown): void => {
  toast.error(toProblem(error).message)
}
