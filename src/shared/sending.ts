import { claimedFilesSchema, sizesHereSchema } from './contracts/intake.contract'

/** How files are sent into a batch, by a page and by the command line alike. */
export const SENT_AT_ONCE = 3

/** Below this, sending a file is no slower than asking whether it is there already. */
const LEAST_CLAIMED_BYTES = 64 * 1024

/** Options of a resumable upload (tus 1.0) of one file. */
export const sendingOptions = (batchId: number, path: string, server = '') => ({
  endpoint: `${server}/api/uploads`,
  chunkSize: 32 * 1024 ** 2,
  retryDelays: [0, 1000, 3000, 10_000, 30_000],
  metadata: { batchId: String(batchId), path },
})

type Post = (path: string, body: unknown) => Promise<unknown>

const SIZES_AT_ONCE = 5000

/**
 * Of files about to be sent, the sizes in bytes that another of them, or something that is here already, has as well. A file of any other
 * size is certainly new, and is sent without being hashed first: of gigabytes that takes as long as sending them.
 * @param post sends a JSON body to an address and gives the answer's
 */
export async function findKnownSizes(
  post: Post,
  batchId: number,
  files: readonly { size: number }[],
): Promise<ReadonlySet<number>> {
  const known = new Set<number>()
  const sizes = new Set<number>()
  for (const { size } of files)
    if (size < LEAST_CLAIMED_BYTES) continue
    else if (sizes.has(size)) known.add(size)
    else sizes.add(size)
  const asked = [...sizes].filter(size => !known.has(size))
  for (let at = 0; at < asked.length; at += SIZES_AT_ONCE) {
    const answer = await post(`/api/batches/${batchId}/sizes-here`, { sizes: asked.slice(at, at + SIZES_AT_ONCE) })
    for (const size of sizesHereSchema.parse(answer).sizes) known.add(size)
  }
  return known
}

/**
 * Asks the server to take bytes that the library has already under a path of the batch, so that they need not be sent.
 * @param post sends a JSON body to an address and gives the answer's
 */
export async function claimFile(
  post: Post,
  batchId: number,
  file: { path: string; hash: string; size: number },
): Promise<boolean> {
  const answer = await post(`/api/batches/${batchId}/claim`, { files: [file] })
  return claimedFilesSchema.parse(answer).taken.length > 0
}
