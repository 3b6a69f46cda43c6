import { createFinding, type Finding } from '../findings/finding'
import { fullScale, type Image } from '../image/image'
import type { Seam } from '../image/tile-seam'
import type { MapSubject } from './map-subject'
import type { MapUse } from './map-use'
import type { MapFigures } from './measure-map'

export interface MeasuredMap extends MapSubject {
  figures: MapFigures
  use: MapUse
  seams: { x: Seam; y: Seam }
}

type MapCheck = (map: MeasuredMap) => Finding[]

/** By which a name promises that it repeats. */
const TILING_WORDS = ['seamless', 'tile', 'tiled', 'tiling', 'tileable', 'repeat', 'repeating']

/** What is said to repeat, or repeats in the other direction, and does not. */
const checkSeam: MapCheck = ({ path, seams, words, use, figures }) => {
  const isPromised = use === 'pattern' || words.some(w => TILING_WORDS.includes(w))
  if (!isPromised || figures.alpha === 'cutOut') return []
  return (['x', 'y'] as const).flatMap(axis => {
    const { wrapStep, interiorStep, isSeen } = seams[axis]
    return isSeen ? [createFinding('tileSeam', { axis, wrapStep, interiorStep }, path)] : []
  })
}

/** Three or four times the memory for what one channel says. */
const checkGrey: MapCheck = ({ path, figures, image }) =>
  figures.isGrey && image.channels >= 3 ? [createFinding('greyInColor', { channels: image.channels }, path)] : []

const checkAlpha: MapCheck = ({ path, figures }) => (figures.alpha === 'unused' ? [createFinding('alphaUnused', {}, path)] : [])

const USED_AS_AMOUNT: ReadonlySet<MapUse> = new Set(['mask', 'gradient'])
/** What is less than this away from an end cannot be seen to be. */
const ENDS = 0.06

/** A mask or a run from nothing to everything that stops short of either never quite hides or never quite shows. */
const checkRange: MapCheck = ({ path, use, figures: { low, high, isGrey, alpha } }) =>
  USED_AS_AMOUNT.has(use) && isGrey && alpha !== 'cutOut' && high - low > 0.2 && (low > ENDS || high < 1 - ENDS)
    ? [createFinding('rangeNotFull', { low, high }, path)]
    : []

const MOST_FRINGE = 0.12

/** Colours of what is cut out, where it ends: what lies under it is mixed in as soon as the picture is made smaller. */
const checkFringe: MapCheck = ({ path, figures, image }) => {
  if (figures.alpha !== 'cutOut') return []
  const difference = measureFringe(image)
  return difference > MOST_FRINGE ? [createFinding('edgeFringe', { difference }, path)] : []
}

/** Mean difference between texels that are clear and neighbours that are there, in codes over full scale; 0 where none meet. */
export function measureFringe({ width, height, channels, data }: Image): number {
  const scale = 1 / fullScale(data)
  const colors = channels - 1
  const isThere = (p: number) => data[p + colors] * scale > 0.5
  const isClear = (p: number) => data[p + colors] * scale < 0.02
  let [sum, count] = [0, 0]
  const compare = (p: number, q: number) => {
    if (!(isClear(p) && isThere(q)) && !(isClear(q) && isThere(p))) return
    for (let c = 0; c < colors; c++) sum += (Math.abs(data[p + c] - data[q + c]) * scale) / colors
    count++
  }
  // Soft edges have a texel or two between.
  const reach = Math.max(1, Math.min(3, Math.floor(Math.min(width, height) / 8)))
  for (let y = 0; y < height; y++)
    for (let x = 0; x + reach < width; x++) compare((y * width + x) * channels, (y * width + x + reach) * channels)
  for (let y = 0; y + reach < height; y++)
    for (let x = 0; x < width; x++) compare((y * width + x) * channels, ((y + reach) * width + x) * channels)
  return count > 0 ? sum / count : 0
}

export const MAP_CHECKS: readonly MapCheck[] = [checkSeam, checkRange, checkFringe, checkGrey, checkAlpha]
