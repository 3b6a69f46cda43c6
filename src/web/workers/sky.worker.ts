import { type SplitKey, splitKey } from '#core/environment/soften-key'
import type { FloatImage } from '#core/image/image'

/** A sky whose sun is wanted apart; its answer comes under the same number. */
export interface SkyOrder {
  number: number
  map: FloatImage
}
export interface SkyAnswer {
  number: number
  /** Null where there is nothing that throws a shadow. */
  split: SplitKey | null
}

self.onmessage = ({ data: { number, map } }: MessageEvent<SkyOrder>) => {
  const split = splitKey(map)
  self.postMessage({ number, split } satisfies SkyAnswer, { transfer: split ? [split.rest.data.buffer as ArrayBuffer] : [] })
}
