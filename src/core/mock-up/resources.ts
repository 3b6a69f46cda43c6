import { boundsOfMeshes, type Mesh } from '../geometry/mesh'
import type { ByteImage, FloatImage } from '../image/image'
import type { OpenPbrMaterial } from '../material/open-pbr'
import type { Box } from './snapping'

/** A part of a model of the library as a mock-up shows it. */
export interface ResourcePart {
  name: string
  mesh: Mesh
  hasUvs: boolean
  material: OpenPbrMaterial
  images: readonly ByteImage[]
}

/** What a mock-up's items are, opened; by the keys of their inputs. What is not there is left out of what is drawn. */
export interface Resources {
  models: ReadonlyMap<string, readonly ResourcePart[]>
  materials: ReadonlyMap<string, { material: OpenPbrMaterial; images: readonly ByteImage[] }>
  skies: ReadonlyMap<string, FloatImage>
}

/** Around all parts, in the model's own space. */
export const boundsOf = (parts: readonly Pick<ResourcePart, 'mesh'>[]): Box => boundsOfMeshes(parts.map(p => p.mesh))
