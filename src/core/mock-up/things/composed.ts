import type { Mesh } from '../../geometry/mesh'
import type { ByteImage } from '../../image/image'
import type { Affine } from '../../math/affine'
import type { Look } from './resources'

/** A thing to draw once or many times, with what it is called by. */
export interface ComposedPart<I = ByteImage> extends Look<I> {
  name: string
  mesh: Mesh
}
export interface Composed<I = ByteImage> {
  /** The same for the same look of the same things, whatever else is there. */
  key: string
  parts: readonly ComposedPart<I>[]
  placements: readonly Affine[]
  /** What stands at each placement: a piece, one plant of a planting, or a light. */
  of:
    | readonly { piece: string; planting?: undefined; plant?: undefined; light?: undefined }[]
    | readonly { planting: string; plant: number; piece?: undefined; light?: undefined }[]
    | readonly { light: string; piece?: undefined; planting?: undefined; plant?: undefined }[]
}
