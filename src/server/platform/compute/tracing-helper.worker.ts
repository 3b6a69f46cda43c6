import { parentPort, workerData } from 'node:worker_threads'
import { fitRows } from '#core/render/film/fit-rows'
import { KernelTracer, type TracerCopy } from '#core/render/integrator/kernel-tracer'
import type { HelperAnswer, HelperOrder } from './tracing-helpers'

/** Traces passes of one picture, in a memory of its own, and filters parts of it. */

const port = parentPort!
const tracer = KernelTracer.reopen(workerData as TracerCopy)

port.on('message', (order: HelperOrder) => {
  const { id } = order
  if ('task' in order) {
    const fitted = fitRows(order.task)
    port.postMessage({ id, fitted } satisfies HelperAnswer, [fitted.buffer])
    return
  }
  const [rays, clamped] = [tracer.rays, tracer.clampedLuminance]
  const halves = order.halves.map(({ which, from, until }) => tracer.traceArea(order.area, from, until, which).slice())
  const answer: HelperAnswer = { id, halves, rays: tracer.rays - rays, clampedLuminance: tracer.clampedLuminance - clamped }
  port.postMessage(
    answer,
    halves.map(t => t.buffer as ArrayBuffer),
  )
})
