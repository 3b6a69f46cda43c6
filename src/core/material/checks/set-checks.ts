import { createFinding } from '../../findings/finding'
import { fullScale } from '../../image/image'
import { percentile } from '../../math/statistics'
import { type MaterialCheck, type MaterialMap, mapOf } from '../material-subject'

export const checkRealWorldSize: MaterialCheck = ({ widthMm }) =>
  widthMm === null || !(widthMm > 0) ? [createFinding('realWorldSizeMissing', {})] : []

export const checkBaseColorPresent: MaterialCheck = subject =>
  mapOf(subject, 'baseColor') ? [] : [createFinding('baseColorMissing', { maps: subject.maps.length })]

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

export const checkRoleSource: MaterialCheck = ({ maps }) =>
  maps.filter(m => m.byContentOnly).map(m => createFinding('roleByContentOnly', { role: m.role }, m.path))

/** A height map with fewer than 2,000 levels over its range shows steps when displaced. */
export const checkHeightBanding: MaterialCheck = subject => {
  const map = mapOf(subject, 'height')
  if (!map) return []
  const levels = new Set<number>()
  const { image } = map
  for (let i = 0; i < image.data.length && levels.size < 2000; i += image.channels) levels.add(image.data[i])
  const enough = levels.size >= Math.min(2000, (image.width * image.height) / 8)
  return enough ? [] : [createFinding('heightBanding', { levels: levels.size, bitsPerChannel: map.bitsPerChannel }, map.path)]
}

/**
 * A tile's seam: the mean step across the wrap edge as against the same step inside the picture. A tile that wraps
 * is at home in that distribution; one that does not stands far above its 99th percentile.
 */
export const checkTileSeam: MaterialCheck = subject => {
  const map = mapOf(subject, 'baseColor') ?? mapOf(subject, 'height')
  if (!map) return []
  return (['x', 'y'] as const).flatMap(axis => {
    const { wrapStep, interiorStep } = measureSeam(map, axis)
    return wrapStep > interiorStep * 1.6 + 0.004 ? [createFinding('tileSeam', { axis, wrapStep, interiorStep }, map.path)] : []
  })
}

function measureSeam({ image }: MaterialMap, axis: 'x' | 'y') {
  const { width, height, channels, data } = image
  const along = axis === 'x' ? width : height
  const across = axis === 'x' ? height : width
  const scale = 1 / fullScale(data)
  const step = (from: number, to: number) => {
    let sum = 0
    for (let k = 0; k < across; k++) {
      const a = (axis === 'x' ? k * width + from : from * width + k) * channels
      const b = (axis === 'x' ? k * width + to : to * width + k) * channels
      for (let c = 0; c < Math.min(3, channels); c++) sum += Math.abs(data[a + c] - data[b + c]) * scale
    }
    return sum / (across * Math.min(3, channels))
  }
  const interior = Array.from({ length: along - 1 }, (_, i) => step(i, i + 1))
  return { wrapStep: step(along - 1, 0), interiorStep: percentile(interior, 0.99) }
}
