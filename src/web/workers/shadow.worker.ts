import { lightOfRig } from '#core/render/lights/house-light'
import { type Ground, measureGroundShadow } from '#core/render/pictures/ground-shadow'
import type { Rig } from '#core/render/rigs/rig'

export interface ShadowOrder {
  /** 9 floats for each triangle, metres. */
  positions: Float32Array<ArrayBuffer>
  rig: Rig
  ground: Ground
  sizePx: number
}

/** Shares of light, 0..1. */
export type ShadowAnswer = Float32Array

self.onmessage = ({ data }: MessageEvent<ShadowOrder>) => {
  const shares: ShadowAnswer = measureGroundShadow(data.positions, lightOfRig(data.rig), data.ground, data.sizePx)
  self.postMessage(shares, { transfer: [shares.buffer] })
}
