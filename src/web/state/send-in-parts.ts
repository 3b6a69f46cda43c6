import type { BulkResult } from '#shared/contracts/items.contract'

type Sent<R> = { data?: R; error?: unknown }

/**
 * Sends many in parts of what one request takes, one after the other. What was done stays done: where one is refused as a whole, the rest is not
 * sent, and what it was refused for comes with what was done before.
 * @param onPart called before each part with how many have been sent
 */
export async function sendInParts<T, R extends BulkResult>(
  things: readonly T[],
  most: number,
  send: (part: T[]) => Promise<Sent<R>>,
  onPart: (sent: number) => void = () => {},
): Promise<{ done: R[]; all: BulkResult; error: unknown }> {
  const done: R[] = []
  let error: unknown = null
  for (let at = 0; at < things.length; at += most) {
    onPart(at)
    const result = await send(things.slice(at, at + most))
    if (!result.data) {
      error = result.error
      break
    }
    done.push(result.data)
  }
  const all = { changed: done.flatMap(r => r.changed), refused: done.flatMap(r => r.refused) }
  return { done, all, error }
}
