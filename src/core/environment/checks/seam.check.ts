import { createFinding } from '../../findings/finding'
import type { EnvironmentCheck } from './environment-check'

/** The step across the left and right edges against the steps between neighbouring columns inside. */
export const checkSeam: EnvironmentCheck = ({ wrapStops, interiorStops }) =>
  wrapStops > interiorStops * 3 + 0.02
    ? [createFinding('environmentSeam', { stepStops: wrapStops, interiorStepStops: interiorStops })]
    : []
