/** What the host may call. */
export { setRoot, closestHit, isOccluded } from './traverse'
export { setScene } from './scene'
export { setView, trace, tracePixel } from './trace'
export { fitWindow, setFilter } from './filter'
export { buildTree, writeTree } from './build'
