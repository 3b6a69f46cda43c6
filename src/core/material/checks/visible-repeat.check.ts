import { toLightness } from '../../color/lightness'
import { createFinding } from '../../findings/finding'
import type { Image } from '../../image/image'
import { percentile } from '../../math/statistics'
import { type MaterialCheck, mapOf } from '../material-subject'
import { meansOfCells, sampleLuminance } from '../sample-luminance'

const GRID = 32
/** A spot is as wide as this many cells: an eighth of the tile. */
const SPOT = 4
/** Lightness (CIE L*) by which a spot stands out for everybody who looks at a wall of it. */
const LEAST_LIGHTNESS = 5
/** And this many times as far from the middle as spots of this surface usually are. */
const LEAST_SPREADS = 4.5

/** One spot that is like no other on its tile: laid in fours by fours it makes a grid that the eye finds at once. */
export const checkVisibleRepeat: MaterialCheck = subject => {
  const map = mapOf(subject, 'baseColor')
  if (!map || map.image.channels < 3) return []
  const { lightness, spreads, u, v } = findSpot(map.image)
  return Math.abs(lightness) >= LEAST_LIGHTNESS && spreads >= LEAST_SPREADS
    ? [createFinding('visibleRepeat', { lightness, spreads, u, v }, map.path)]
    : []
}

/** The spot that stands out most: by how much L*, in robust standard deviations of all spots, and where its middle is. */
function findSpot(image: Image): { lightness: number; spreads: number; u: number; v: number } {
  const cells = meansOfCells(sampleLuminance(image), GRID).map(toLightness)
  const spots = Array.from(cells, (_, at) => {
    let sum = 0
    for (let j = 0; j < SPOT; j++)
      for (let i = 0; i < SPOT; i++) sum += cells[((Math.floor(at / GRID) + j) % GRID) * GRID + (((at % GRID) + i) % GRID)]
    return sum / (SPOT * SPOT)
  })
  const middle = percentile(spots, 0.5)
  const offs = spots.map(spot => Math.abs(spot - middle))
  // The median deviation of a normal distribution is 0.6745 of its standard deviation.
  const spread = Math.max(percentile(offs, 0.5) / 0.6745, 0.1)
  const at = offs.indexOf(Math.max(...offs))
  const centre = (index: number) => ((((index + SPOT / 2) / GRID) % 1) + 1) % 1
  return {
    lightness: spots[at] - middle,
    spreads: offs[at] / spread,
    u: centre(at % GRID),
    v: centre(Math.floor(at / GRID)),
  }
}
