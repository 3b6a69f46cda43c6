import { createFinding } from '../../findings/finding'
import type { MaterialCheck } from '../material-subject'

export const checkMapSizes: MaterialCheck = ({ maps }) => {
  const findings = maps
    .filter(m => !isPowerOfTwo(m.widthPx) || !isPowerOfTwo(m.heightPx))
    .map(m => createFinding('mapNotPowerOfTwo', { widthPx: m.widthPx, heightPx: m.heightPx }, m.path))
  const sizes = new Set(maps.map(m => `${m.widthPx} x ${m.heightPx}`))
  if (sizes.size < 2) return findings
  // What is looked at first decides: detail that the colour does not have is worth nothing.
  const { widthPx, heightPx } = maps.find(m => m.role === 'baseColor') ?? maps[0]
  return [createFinding('mapSizesDisagree', { sizes: [...sizes].join(', '), widthPx, heightPx }), ...findings]
}

const isPowerOfTwo = (n: number): boolean => n > 0 && (n & (n - 1)) === 0
