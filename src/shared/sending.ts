import { claimedFilesSchema } from './contracts/intake.contract'

/** How files are sent into a batch, by a page and by the command line alike. */
export const SENT_AT_ONCE = 3

/** Below this, sending a file is no slower than asking whether it is there already. */
export const LEAST_CLAIMED_BYTES = 64 * 1024

/** Options of a resumable upload (tus 1.0) of one file. */
export const sendingOptions = (batchId: number, path: string, server = '') => ({
  endpoint: `${server}/api/uploads`,
  chunkSize: 32 * 1024 ** 2,
  retryDelays: [0, 1000, 3000, 10_000, 30_000],
  metadata: { batchId: String(batchId), path },
})

/**
 * Asks the server to take bytes that the library has already under a path of the batch, so that they need not be sent.
 * @param post sends a JSON body to an address and gives the answer's
 */
export async function claimFile(
  post: (path: string, body: unknown) => Promise<unknown>,
  batchId: number,
  file: { path: string; hash: string; size: number },
): Promise<boolean> {
  const answer = await post(`/api/batches/${batchId}/claim`, { files: [file] })
  return claimedFilesSchema.parse(answer).taken.length > 0
}
