import { parentPort } from 'node:worker_threads'
import { renderOak } from './render.bench'

/** Renders drafts of the oak, as many as it is told each time. It draws one before: threads of the server have been at work for hours. */
const draw = renderOak()
draw()
parentPort!.on('message', (drafts: number) => {
  for (let k = 0; k < drafts; k++) draw()
  parentPort!.postMessage('done')
})
parentPort!.postMessage('warm')
