import type { Finding } from '../../findings/finding'
import type { EdgeCounts } from '../edges'
import type { PartMeasures } from '../measure-part'
import type { Bounds } from '../mesh'
import type { Model } from '../model'

/** A model with everything that was measured of it, as a check sees it. */
export interface ModelSubject {
  model: Model
  bounds: Bounds
  triangles: number
  degenerateTriangles: number
  /** By part. */
  measures: readonly PartMeasures[]
  /** By part. */
  edges: readonly EdgeCounts[]
  /** Extent a thing of this category has in its largest dimension, in metres; null when unknown. */
  expectedSizeM: [number, number] | null
  triangleBudget: number | null
  /** Triangles of the coarser levels of detail that are there, best first. */
  levels: readonly number[]
  /** Of each of the model's images; null where it does not decode. */
  imageSizes: readonly (ImageSize | null)[]
}

export interface ImageSize {
  widthPx: number
  heightPx: number
}

export type ModelCheck = (subject: ModelSubject) => Finding[]
