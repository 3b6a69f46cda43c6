import type { OpenPbrMaterial } from '../material/open-pbr'
import type { Vec3 } from '../math/vec3'
import type { Stamp } from '../stamp'
import type { Mesh } from './mesh'

/** A named region of a model with one material, in world space. */
export interface ModelPart {
  name: string
  mesh: Mesh
  /** Index into the model's materials; −1 for none. */
  material: number
  /** Whether the file gave texture coordinates. */
  hasUvs: boolean
  /** Whether the file gave vertex normals; where it did not, smooth ones stand in. */
  hasNormals?: boolean
  /** Which of the file's nodes it is of: the parts of one stand together. */
  node?: number
  /** Nodes that its own stands below, the outermost first. */
  groups?: readonly ModelGroup[]
  /** Where `mesh` stands, column by column, for one that stands at several places and is there once; in world space without it. */
  placement?: readonly number[]
  /** How its node scales it: the longest axis over the shortest, negative where it is mirrored; 1 for most. */
  nodeStretch?: number
}

/** A node that others stand below. */
export interface ModelGroup {
  node: number
  name: string
  /** Of the library's items, where it says so. */
  stamp: Stamp | null
}

/** A light or a camera of a model, in the place where it stands: both look along −z. */
interface ModelStray {
  name: string
  groups: readonly ModelGroup[]
  /** World matrix without scale, column by column, metres. */
  placement: readonly number[]
  stamp: Stamp | null
}
export interface ModelLight extends ModelStray {
  kind: 'point' | 'spot' | 'directional'
  /** Linear sRGB. */
  color: Vec3
  /** Candela, or lux of a directional one. */
  intensity: number
  /** Half the angle of its cone, radians; null without one. */
  coneRad: number | null
}
/** With perspective. */
export interface ModelCamera extends ModelStray {
  yFovRad: number
  /** Width over height. */
  aspect: number
}

export interface ModelImage {
  name: string
  mediaType: string
  bytes: Uint8Array
}

export interface Model {
  parts: ModelPart[]
  materials: OpenPbrMaterial[]
  /** Of the library's items, by the number of the material, of those that say so. */
  materialStamps?: ReadonlyMap<number, Stamp>
  images: ModelImage[]
  lights?: ModelLight[]
  cameras?: ModelCamera[]
  /** Addresses of files that the model names and that did not come along. */
  missingFiles: string[]
  /** Textures that were found by what they are, not by the name that the model has for them. */
  matchedFiles?: { address: string; file: string }[]
  /** The form it came in, where it was no glTF, and after it what glTF does not hold of it. */
  lost?: string[]
  /** Cameras, lights, empty nodes and animations that came along. */
  strays: { cameras: number; lights: number; emptyNodes: number; animations: number }
}
