/** What the host may call. */
export { setRoots, closestHit, hitPlacementNumber, isOccluded } from './traverse'
export { setScene } from './scene'
export { setView, trace, traceArea, tracePixel } from './trace'
export { fitWindow, setFilter } from './filter'
export { buildTree, buildTop, writeTree } from './build'
