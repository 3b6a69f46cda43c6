import { parentPort, workerData } from 'node:worker_threads'
import { renderOak } from './render.bench'

/** Renders as many drafts of the oak as it is told. */
const draw = renderOak()
for (let k = 0; k < ((workerData as { drafts?: number } | null)?.drafts ?? 1); k++) draw()
parentPort!.postMessage('done')
