import { parentPort } from 'node:worker_threads'
import { renderOak } from './render.bench'

renderOak()()
parentPort!.postMessage('done')
