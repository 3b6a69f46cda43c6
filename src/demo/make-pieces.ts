import { once } from 'node:events'
import { Worker } from 'node:worker_threads'
import type { DemoPiece } from './make-file'

/** Makes pieces in threads and hands each over when it is done, in any order. Paths are relative to `folder`. */
export async function makePieces(
  pieces: readonly DemoPiece[],
  folder: string,
  threads: number,
  onPiece: (piece: DemoPiece, paths: string[]) => Promise<void>,
): Promise<void> {
  const waiting = [...pieces]
  const lane = async (): Promise<void> => {
    if (waiting.length === 0) return
    const worker = new Worker(new URL('./make.worker.js', import.meta.url))
    try {
      for (let piece = waiting.shift(); piece; piece = waiting.shift()) {
        const answer = once(worker, 'message')
        worker.postMessage({ piece, folder })
        const [{ paths }] = (await answer) as [{ paths: string[] }]
        await onPiece(piece, paths)
      }
    } finally {
      await worker.terminate()
    }
  }
  await Promise.all(Array.from({ length: threads }, lane))
}
