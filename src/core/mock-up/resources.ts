import { boundsOfMeshes, type Mesh } from '../geometry/mesh'
import type { ByteImage, FloatImage } from '../image/image'
import type { OpenPbrMaterial } from '../material/open-pbr'
import type { Box } from './snapping'

/** A material with its pictures, in whatever form whoever draws them has them. */
export interface Look<I = ByteImage> {
  material: OpenPbrMaterial
  images: readonly I[]
}

/** A part of a model of the library as a mock-up shows it. */
export interface ResourcePart<I = ByteImage> extends Look<I> {
  name: string
  mesh: Mesh
  hasUvs: boolean
}

/** What a mock-up's items are, opened; by the keys of their inputs. What is not there is left out of what is drawn. */
export interface Resources<I = ByteImage> {
  models: ReadonlyMap<string, readonly ResourcePart<I>[]>
  materials: ReadonlyMap<string, Look<I>>
  skies: ReadonlyMap<string, FloatImage>
}

/** Around all parts, in the model's own space. */
export const boundsOf = (parts: readonly Pick<ResourcePart<unknown>, 'mesh'>[]): Box => boundsOfMeshes(parts.map(p => p.mesh))
