import type { HashAnswer, HashRequest } from '../../../workers/hash.worker'

let worker: Worker | null = null
let nextId = 1
const waiting = new Map<number, (hash: string | null) => void>()

/** SHA-256 of a file, computed beside the page; null when it cannot be read, or the browser has no such worker. */
export function hashFile(file: Blob): Promise<string | null> {
  return new Promise(resolve => {
    try {
      worker ??= startWorker()
    } catch {
      resolve(null)
      return
    }
    const id = nextId++
    waiting.set(id, resolve)
    worker.postMessage({ id, file } satisfies HashRequest)
  })
}

function startWorker(): Worker {
  const started = new Worker(new URL('../../../workers/hash.worker.ts', import.meta.url), { type: 'module' })
  started.onmessage = ({ data }: MessageEvent<HashAnswer>) => {
    waiting.get(data.id)?.('hash' in data ? data.hash : null)
    waiting.delete(data.id)
  }
  // Without hashes everything is simply sent.
  started.onerror = () => {
    for (const resolve of waiting.values()) resolve(null)
    waiting.clear()
    worker = null
  }
  return started
}
