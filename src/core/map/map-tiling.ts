import type { Image } from '../image/image'
import { findSeam, type Seam } from '../image/tile-seam'
import { isOneShape } from './cut-out'
import type { MapFigures } from './measure-map'

/** Whether a map repeats, in each direction, and the seams that this was told by. */
export interface MapTiling {
  x: boolean
  y: boolean
  seams: { x: Seam; y: Seam }
}

/** What is cut out, and one shape on an even ground, has edges that meet; nobody lays it edge to edge. */
export function findTiling(image: Image, figures: MapFigures): MapTiling {
  const seams = { x: findSeam(image, 'x'), y: findSeam(image, 'y') }
  const isLaid = figures.alpha !== 'cutOut' && !isOneShape(image)
  return { x: isLaid && !seams.x.isSeen, y: isLaid && !seams.y.isSeen, seams }
}
