import type { BulkResult } from '#shared/contracts/items.contract'

type Sent<R> = { data?: R; error?: unknown }

/**
 * Sends many in parts of what one request takes, one after the other. What was done stays done: where one is refused as a whole, the rest is not
 * sent, and what it was refused for comes with what was done before.
 */
export async function sendInParts<R extends BulkResult>(
  ids: readonly number[],
  most: number,
  send: (ids: number[]) => Promise<Sent<R>>,
): Promise<{ done: R[]; all: BulkResult; error: unknown }> {
  const done: R[] = []
  let error: unknown = null
  for (let at = 0; at < ids.length; at += most) {
    const result = await send(ids.slice(at, at + most))
    if (!result.data) {
      error = result.error
      break
    }
    done.push(result.data)
  }
  const all = { changed: done.flatMap(r => r.changed), refused: done.flatMap(r => r.refused) }
  return { done, all, error }
}
