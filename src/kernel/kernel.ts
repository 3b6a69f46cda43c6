/** What the host may call. */
export { setRoot, closestHit, isOccluded } from './traverse'
export { setScene, setView, trace, tracePixel } from './trace'
