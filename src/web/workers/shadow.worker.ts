import { createFloatImage } from '#core/image/image'
import { EnvironmentLight } from '#core/render/lights/environment-light'
import { lightOfRig } from '#core/render/lights/house-light'
import { type Ground, measureGroundShadow } from '#core/render/pictures/ground-shadow'
import type { Rig } from '#core/render/rigs/rig'

export interface ShadowOrder {
  /** 9 floats for each triangle, metres. */
  positions: Float32Array<ArrayBuffer>
  /** Whose light it is; null for a light that is as bright from everywhere. */
  rig: Rig | null
  ground: Ground
  sizePx: number
}

/** Shares of light, 0..1. */
export type ShadowAnswer = Float32Array

function createEvenLight(): EnvironmentLight {
  const map = createFloatImage(32, 16, 3)
  map.data.fill(1)
  return new EnvironmentLight(map, 1)
}

self.onmessage = ({ data }: MessageEvent<ShadowOrder>) => {
  const shares: ShadowAnswer = measureGroundShadow(
    data.positions,
    data.rig ? lightOfRig(data.rig) : createEvenLight(),
    data.ground,
    data.sizePx,
  )
  self.postMessage(shares, { transfer: [shares.buffer] })
}
