import { Worker } from 'node:worker_threads'
import { FileError } from '#core/findings/failure'
import type { ComputeTasks, SpareMessage, TaskMessage, TaskName, ThreadData, ThreadMessage } from './compute-tasks'

/** Who follows a task while it is done. */
export interface TaskWatch {
  onProgress?: (share: number, error: number | null, secondsLeft: number | null) => void
  /** Is given pictures as far as they have come, encoded, of tasks that show them. */
  onInterim?: (bytes: Uint8Array) => void
  /** Ends it. */
  stop?: AbortSignal
}

interface Waiting {
  message: TaskMessage
  watch: TaskWatch
  resolve: (output: never) => void
  reject: (error: Error) => void
}

interface Thread {
  worker: Worker
  /** Only for what somebody waits for. */
  isForDrafts: boolean
  current: Waiting | null
  /** As it was told. */
  spare: number
}

/** Somebody wanted it no longer. */
export class Stopped extends Error {}

/** Whether a task has helpers as long as the pool has threads with nothing to do: pictures that take a while. */
const takesHelp = ({ task, input }: TaskMessage): boolean =>
  task === 'mockUp' || (task === 'preview' && (input as ComputeTasks['preview']['input']).quality === 'final')
/** Whoever works on a mock-up looks at its draft before the next step. */
const isDraft = ({ task, input }: TaskMessage): boolean =>
  task === 'mockUp' && (input as ComputeTasks['mockUp']['input']).quality === 'draft'
/** Somebody ordered a picture of a mock-up; finals are made beside other work, and leave a thread to it. */
const threadsLeft = ({ task }: TaskMessage): number => (task === 'mockUp' ? 0 : 1)

export interface PoolOptions {
  /** How far its threads stand back in the processor's line, as a process's; without it as the process does. */
  niceness?: number
  /**
   * Threads beside the others for drafts of mock-ups, which begin at once whatever else is under way, and do not stand back. What a mock-up
   * shows stays open in them for the next draft.
   */
  forDrafts?: number
}

/** A fixed number of worker threads, one task each at a time, first come first served; a few tasks use what is idle too. */
export class ComputePool {
  private readonly threads: Thread[] = []
  private readonly queued: Waiting[] = []
  private nextId = 1
  private closed = false

  constructor(
    readonly size: number,
    private readonly entry: URL,
    private readonly options: PoolOptions = {},
  ) {}

  /** Rejects with a FileError when the input is at fault, with {@link Stopped} after `stop`, with another error when the code is. */
  run<T extends TaskName>(task: T, input: ComputeTasks[T]['input'], watch: TaskWatch = {}): Promise<ComputeTasks[T]['output']> {
    return new Promise((resolve, reject) => {
      const waiting: Waiting = { message: { id: this.nextId++, task, input }, watch, resolve: resolve as never, reject }
      watch.stop?.addEventListener('abort', () => this.giveUp(waiting), { once: true })
      this.queued.push(waiting)
      this.pump()
    })
  }

  /** What waits is taken out of the line; what is under way ends with its thread, which is the only way to end it at once. */
  private giveUp(task: Waiting): void {
    const at = this.queued.indexOf(task)
    if (at >= 0) {
      this.queued.splice(at, 1)
      task.reject(new Stopped())
    }
    const thread = this.threads.find(t => t.current === task)
    if (!thread) return
    this.dropThread(thread, new Stopped())
    void thread.worker.terminate()
  }

  /** Tasks that wait for a thread. */
  get waiting(): number {
    return this.queued.length
  }

  async close(): Promise<void> {
    this.closed = true
    await Promise.all(this.threads.map(t => t.worker.terminate()))
  }

  private pump(): void {
    if (this.closed) return
    for (const task of [...this.queued]) {
      const thread = (isDraft(task.message) && this.freeThread(true)) || this.freeThread(false)
      if (!thread) continue
      this.queued.splice(this.queued.indexOf(task), 1)
      thread.current = task
      thread.worker.postMessage(task.message)
    }
    this.tellSpare()
  }

  private freeThread(isForDrafts: boolean): Thread | null {
    const alike = this.threads.filter(t => t.isForDrafts === isForDrafts)
    const idle = alike.find(t => t.current === null)
    if (idle) return idle
    return alike.length < (isForDrafts ? (this.options.forDrafts ?? 0) : this.size) ? this.startThread(isForDrafts) : null
  }

  /** Shares out the threads that have nothing to do among the tasks that can use them. */
  private tellSpare(): void {
    const busy = this.threads.filter(t => t.current !== null)
    const users = busy.filter(t => takesHelp(t.current!.message))
    const [each, left] = [Math.floor((this.size - busy.length) / users.length), (this.size - busy.length) % users.length]
    users.forEach((thread, k) => {
      const spare = Math.max(0, each + (k < left ? 1 : 0) - threadsLeft(thread.current!.message))
      if (spare === thread.spare) return
      thread.spare = spare
      thread.worker.postMessage({ spare } satisfies SpareMessage)
    })
  }

  private startThread(isForDrafts: boolean): Thread {
    const niceness = isForDrafts ? null : (this.options.niceness ?? null)
    const worker = new Worker(this.entry, { workerData: { niceness } satisfies ThreadData })
    const thread: Thread = { worker, isForDrafts, current: null, spare: 0 }
    this.threads.push(thread)
    thread.worker.on('message', (message: ThreadMessage) => {
      const task = thread.current
      if (!task || task.message.id !== message.id) return
      if (message.kind === 'progress') {
        task.watch.onProgress?.(message.share, message.error, message.secondsLeft)
        return
      }
      if (message.kind === 'interim') {
        task.watch.onInterim?.(message.bytes)
        return
      }
      thread.current = null
      if (message.kind === 'done') task.resolve(message.output as never)
      else if (message.kind === 'failed') task.reject(new FileError(message.failure.code, message.failure.message))
      else task.reject(new Error(message.text))
      this.pump()
    })
    // A thread that ends (out of memory, a crash in native code) fails its own task only; the next gets a new one.
    thread.worker.on('error', error => this.dropThread(thread, error instanceof Error ? error : new Error(String(error))))
    thread.worker.on('exit', () => this.dropThread(thread, new Error('The compute thread ended.')))
    return thread
  }

  private dropThread(thread: Thread, error: Error): void {
    const at = this.threads.indexOf(thread)
    if (at < 0) return
    this.threads.splice(at, 1)
    thread.current?.reject(error)
    thread.current = null
    this.pump()
  }
}
