import type { Mesh } from '#core/geometry/mesh'
import { createGround } from '#core/mock-up/planting/ground'
import { growPlanting, type Plant } from '#core/mock-up/planting/grow-planting'
import type { Planting } from '#core/mock-up/scene/scene'

/** Grows plantings beside the page. */
export interface GrowCommand {
  key: string
  planting: Planting
  keepOut: readonly { x: number; z: number; radiusM: number }[]
  /** What it grows on; none where the ground is level. */
  under: readonly Pick<Mesh, 'positions' | 'indices'>[]
}
export interface GrowNews {
  key: string
  plants: Plant[]
}

self.onmessage = ({ data: { key, planting, keepOut, under } }: MessageEvent<GrowCommand>) => {
  const ground = under.length > 0 ? createGround(under) : null
  self.postMessage({ key, plants: growPlanting(planting, keepOut, ground) } satisfies GrowNews)
}
