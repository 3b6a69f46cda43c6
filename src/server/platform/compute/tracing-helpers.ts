import { freemem } from 'node:os'
import { setImmediate } from 'node:timers/promises'
import { Worker } from 'node:worker_threads'
import type { FitTask } from '#core/render/film/fit-rows'
import type { Area } from '#core/render/integrator/kernel-tracer'
import type { Pass, TracedPass } from '#core/render/integrator/pass'
import type { Helper, Helpers } from '#core/render/integrator/trace-together'

export type HelperOrder = { id: number } & ({ area: Area; halves: Pass['halves'] } | { task: FitTask })

export type HelperAnswer = { id: number } & (TracedPass | { fitted: Float32Array })

/** Of the memory that is free, what helpers may take together. */
const SHARE_OF_FREE = 0.4

/** Threads that help to trace a picture. @param spare how many of the pool's threads have nothing to do at the moment */
export const tracingHelpers = (spare: () => number): Helpers => {
  let open = 0
  return {
    // Those that are there have theirs already.
    allowed: bytes => Math.min(spare(), open + Math.floor((SHARE_OF_FREE * freemem()) / bytes)),
    open: copy => {
      open++
      const helper = openHelper(new Worker(new URL('./tracing-helper.worker.js', import.meta.url), { workerData: copy }))
      return {
        ...helper,
        close: () => {
          open--
          helper.close()
        },
      }
    },
    pause: () => setImmediate(),
  }
}

function openHelper(worker: Worker): Helper {
  const waiting = new Map<number, { resolve: (answer: HelperAnswer) => void; reject: (why: Error) => void }>()
  let lastId = 0
  let ended: Error | null = null
  const end = (why: Error) => {
    ended ??= why
    for (const { reject } of waiting.values()) reject(ended)
    waiting.clear()
  }
  worker.on('message', (answer: HelperAnswer) => {
    waiting.get(answer.id)?.resolve(answer)
    waiting.delete(answer.id)
  })
  worker.on('error', why => end(why instanceof Error ? why : new Error(String(why))))
  worker.on('exit', () => end(new Error('The helping thread ended.')))
  const ask = <A extends HelperAnswer>(order: (id: number) => HelperOrder) =>
    new Promise<A>((resolve, reject) => {
      if (ended) {
        reject(ended)
        return
      }
      const id = ++lastId
      waiting.set(id, { resolve: answer => resolve(answer as A), reject })
      worker.postMessage(order(id))
    })
  return {
    trace: ({ tile: { x0, y0, width, height }, halves }) =>
      ask<TracedPass & { id: number }>(id => ({ id, area: { x0, y0, width, height }, halves })),
    fit: async task => (await ask<{ id: number; fitted: Float32Array }>(id => ({ id, task }))).fitted,
    close: () => void worker.terminate(),
  }
}
