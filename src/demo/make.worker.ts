import { parentPort } from 'node:worker_threads'
import { type DemoPiece, makePiece } from './make-file'

/** Makes one piece of the demo world for each message. */
parentPort!.on('message', async ({ piece, folder }: { piece: DemoPiece; folder: string }) => {
  const paths = await makePiece(piece, folder)
  parentPort!.postMessage({ piece, paths })
})
