import type { OpenPbrMaterial } from '../material/open-pbr'
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
  /** Addresses of files that the model names and that did not come along. */
  missingFiles: string[]
  /** Textures that were found by what they are, not by the name that the model has for them. */
  matchedFiles?: { address: string; file: string }[]
  /** The form it came in, where it was no glTF, and after it what glTF does not hold of it. */
  lost?: string[]
  /** Cameras, lights, empty nodes and animations that came along. */
  strays: { cameras: number; lights: number; emptyNodes: number; animations: number }
}
