import { boundsOfMeshes, type Mesh } from '../../geometry/mesh'
import type { ByteImage, FloatImage } from '../../image/image'
import type { OpenPbrMaterial } from '../../material/open-pbr'
import { type MaterialShift, shiftMaps } from '../../material/shift'
import type { CandelaWeb } from '../../photometry/candela-web'
import { around, type Box } from '../placing/snapping'

/** A material with its pictures, in whatever form whoever draws them has them. */
export interface Look<I = ByteImage> {
  material: OpenPbrMaterial
  images: readonly I[]
  /** By what its maps are still to be shifted; its constants are. */
  shift?: MaterialShift
}

/** A part of a model of the library as a mock-up shows it. */
export interface ResourcePart<I = ByteImage> extends Look<I> {
  name: string
  mesh: Mesh
  hasUvs: boolean
  /** Which of its file's nodes it is of; parts of one are one thing. */
  node?: number
}

/** What a mock-up's items are, opened; by the keys of their inputs. What is not there is left out of what is drawn. */
export interface Resources<I = ByteImage> {
  models: ReadonlyMap<string, readonly ResourcePart<I>[]>
  materials: ReadonlyMap<string, Look<I>>
  skies: ReadonlyMap<string, FloatImage>
  /** Light curves of luminaires. */
  webs: ReadonlyMap<string, CandelaWeb>
}

/** Nothing is there yet. */
export const NO_RESOURCES: Resources<never> = { models: new Map(), materials: new Map(), skies: new Map(), webs: new Map() }

const known = new WeakMap<Mesh, Box>()
function boundsOfMesh(mesh: Mesh): Box {
  let box = known.get(mesh)
  if (!box) {
    box = boundsOfMeshes([mesh])
    known.set(mesh, box)
  }
  return box
}

/** Around all parts, in the model's own space; of each mesh it is looked up once. */
export function boundsOf(parts: readonly Pick<ResourcePart<unknown>, 'mesh'>[]): Box {
  const boxes = parts.filter(p => p.mesh.positions.length > 0).map(p => boundsOfMesh(p.mesh))
  return boxes.length > 0 ? around(boxes) : { min: [0, 0, 0], max: [0, 0, 0] }
}

const shiftedLooks = new WeakMap<OpenPbrMaterial, Look>()

/** A look with its maps shifted as it asks for; of one material they are made once. */
export function bakeShift<L extends Look>(look: L): L {
  if (!look.shift) return look
  let made = shiftedLooks.get(look.material)
  if (!made) {
    made = shiftMaps(look.material, look.images, look.shift)
    shiftedLooks.set(look.material, made)
  }
  return { ...look, ...made, shift: undefined }
}
