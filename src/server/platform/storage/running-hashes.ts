import { Worker } from 'node:worker_threads'
import type { HashAsk, HashTold } from './running-hashes.worker'

interface Waiting {
  resolve: (hash: string) => void
  reject: (error: Error) => void
}

/**
 * SHA-256 of files that are still being written, computed by a thread beside the writing, so that the hash is there as soon as the file is
 * whole and requests never wait for it.
 */
export class RunningHashes {
  private worker: Worker | null = null
  private readonly waiting = new Map<number, Waiting>()
  private nextAnswer = 1

  constructor(private readonly entry: URL) {}

  /** So much of the file is there and stays as it is. */
  advance(id: string, path: string, upTo: number): void {
    this.ask({ id, path, upTo })
  }

  /** The hash of the whole file, of `size` bytes. What was hashed of it before is not read again. */
  digest(id: string, path: string, size: number): Promise<string> {
    return new Promise((resolve, reject) => {
      const answer = this.nextAnswer++
      this.waiting.set(answer, { resolve, reject })
      this.ask({ id, path, upTo: size, answer })
    })
  }

  async close(): Promise<void> {
    await this.worker?.terminate()
  }

  private ask(ask: HashAsk): void {
    this.worker ??= this.start()
    this.worker.postMessage(ask)
  }

  private start(): Worker {
    const worker = new Worker(this.entry)
    worker.on('message', (told: HashTold) => {
      const waiting = this.waiting.get(told.answer)
      this.waiting.delete(told.answer)
      if ('hash' in told) waiting?.resolve(told.hash)
      else waiting?.reject(new Error(`An upload could not be hashed: ${told.error}`))
    })
    worker.on('error', () => {})
    // The next that is asked for begins with a new thread.
    worker.on('exit', () => {
      this.worker = null
      for (const { reject } of this.waiting.values()) reject(new Error('The hashing thread ended.'))
      this.waiting.clear()
    })
    worker.unref()
    return worker
  }
}
