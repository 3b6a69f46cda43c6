import { parentPort, workerData } from 'node:worker_threads'
import { KernelTracer, type TracerCopy } from '#core/render/integrator/kernel-tracer'
import type { HelperAnswer, HelperOrder } from './tracing-helpers'

/** Traces passes of one picture, in a memory of its own. */

const port = parentPort!
const tracer = KernelTracer.reopen(workerData as TracerCopy)

port.on('message', ({ id, area, halves }: HelperOrder) => {
  const [rays, clamped] = [tracer.rays, tracer.clampedLuminance]
  const traced = halves.map(({ which, from, until }) => tracer.traceArea(area, from, until, which).slice())
  const answer: HelperAnswer = {
    id,
    halves: traced,
    rays: tracer.rays - rays,
    clampedLuminance: tracer.clampedLuminance - clamped,
  }
  port.postMessage(
    answer,
    traced.map(t => t.buffer as ArrayBuffer),
  )
})
