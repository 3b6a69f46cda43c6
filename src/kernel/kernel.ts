/** What the host may call. */
export { setRoots, closestHit, hitPlacementNumber, isOccluded } from './traverse'
export { setScene } from './scene'
export { setView } from './view'
export { trace, traceArea, tracePixel } from './trace'
export { fitWindow, setFilter } from './filter'
export { halve } from './mip'
export { buildTree, buildTop } from './build/build'
export { writeTree } from './build/write'
