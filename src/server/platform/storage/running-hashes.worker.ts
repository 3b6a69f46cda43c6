import { createHash, type Hash } from 'node:crypto'
import { closeSync, openSync, readSync } from 'node:fs'
import { parentPort } from 'node:worker_threads'
import { LRUCache } from 'lru-cache'

/** Hash what lies at the path up to there; with a number, answer with the digest. */
export interface HashAsk {
  id: string
  path: string
  upTo: number
  answer?: number
}
export type HashTold = { answer: number; hash: string } | { answer: number; error: string }

interface Running {
  digest: Hash
  offset: number
}

/** An upload that rests for longer, or goes on over another server, is hashed from its beginning again. */
const running = new LRUCache<string, Running>({ max: 2000 })
const piece = Buffer.allocUnsafe(1024 ** 2)

function goOn({ id, path, upTo }: HashAsk): Running {
  const state = running.get(id) ?? { digest: createHash('sha256'), offset: 0 }
  // Out of the list while it is worked on: one that breaks off in the middle is begun anew.
  running.delete(id)
  const file = openSync(path, 'r')
  try {
    while (state.offset < upTo) {
      const read = readSync(file, piece, 0, Math.min(piece.length, upTo - state.offset), state.offset)
      if (read === 0) throw new Error('the file is shorter than was said')
      state.digest.update(piece.subarray(0, read))
      state.offset += read
    }
  } finally {
    closeSync(file)
  }
  return state
}

parentPort!.on('message', (ask: HashAsk) => {
  try {
    const state = goOn(ask)
    if (ask.answer === undefined) running.set(ask.id, state)
    else parentPort!.postMessage({ answer: ask.answer, hash: state.digest.digest('hex') } satisfies HashTold)
  } catch (error) {
    if (ask.answer !== undefined)
      parentPort!.postMessage({
        answer: ask.answer,
        error: error instanceof Error ? error.message : String(error),
      } satisfies HashTold)
  }
})
