import type { Finding } from '../findings/finding'
import type { Image } from '../image/image'
import type { HandednessVerdict } from './normal-map'
import type { Tiling } from './open-pbr'
import type { MapRole } from './texture-set'

/** A decoded map as a check sees it: at working size, with what the file itself is. */
export interface MaterialMap {
  role: MapRole
  path: string
  image: Image
  /** Size of the file's picture, which may be larger than `image`. */
  widthPx: number
  heightPx: number
  bitsPerChannel: number
  byContentOnly: boolean
  /** Name of the file's colour profile, where it has one. */
  profile: string | null
}

export interface MaterialSubject {
  maps: readonly MaterialMap[]
  /** Real-world width of one repeat; null when nobody has said. */
  widthMm: number | null
  category: string | null
  /** Whether its pictures repeat; they do without it. */
  tiling?: Tiling
  /** Longest side that a map may have, in pixels; the usual one without it. */
  mapBudgetPx?: number | null
  /** How the house keeps occlusion, roughness and metalness here; apart without it. */
  mapPacking?: 'apart' | 'packed' | null
  /** Which way up the normal map is, where that was found out already; it is asked for more than once. */
  handedness?: HandednessVerdict
}

export type MaterialCheck = (subject: MaterialSubject) => Finding[]

export const mapOf = (subject: MaterialSubject, role: MapRole): MaterialMap | undefined => subject.maps.find(m => m.role === role)
