import { createFinding } from '../../findings/finding'
import { largestExtent } from '../mesh'
import type { ModelCheck } from './model-check'

const UNIT_FACTORS = [0.001, 0.01, 0.0254, 0.3048, 1, 10, 100, 1000]

/** The factor to metres that best fits the category; 1 wherever 1 fits at all. */
export function guessUnitFactor(largestM: number, expected: [number, number]): number {
  const miss = (factor: number) => {
    const size = largestM * factor
    return size < expected[0] ? Math.log(expected[0] / size) : size > expected[1] ? Math.log(size / expected[1]) : 0
  }
  if (miss(1) === 0) return 1
  const middle = Math.log(Math.sqrt(expected[0] * expected[1]))
  return [...UNIT_FACTORS].sort(
    (a, b) => miss(a) - miss(b) || Math.abs(Math.log(largestM * a) - middle) - Math.abs(Math.log(largestM * b) - middle),
  )[0]
}

export const checkUnit: ModelCheck = ({ bounds, expectedSizeM }) => {
  const largest = largestExtent(bounds)
  if (!expectedSizeM || !(largest > 0)) return []
  const factor = guessUnitFactor(largest, expectedSizeM)
  const outside = largest < expectedSizeM[0] || largest > expectedSizeM[1]
  return outside
    ? [createFinding('unitSuspect', { largestM: largest, lowM: expectedSizeM[0], highM: expectedSizeM[1], factor })]
    : []
}
