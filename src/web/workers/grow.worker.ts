import { growPlanting, type Plant } from '#core/mock-up/grow-planting'
import type { Planting } from '#core/mock-up/scene'

/** Grows plantings beside the page. */
export interface GrowCommand {
  key: string
  planting: Planting
  keepOut: readonly { x: number; z: number; radiusM: number }[]
}
export interface GrowNews {
  key: string
  plants: Plant[]
}

self.onmessage = ({ data: { key, planting, keepOut } }: MessageEvent<GrowCommand>) => {
  self.postMessage({ key, plants: growPlanting(planting, keepOut) } satisfies GrowNews)
}
