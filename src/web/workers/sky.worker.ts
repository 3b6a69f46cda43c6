import { type SplitKey, splitKey } from '#core/environment/soften-key'
import type { FloatImage } from '#core/image/image'

/** A sky whose sun is wanted apart. */
export interface SkyOrder {
  map: FloatImage
}
export interface SkyAnswer {
  /** Null where there is nothing that throws a shadow. */
  split: SplitKey | null
}

self.onmessage = ({ data: { map } }: MessageEvent<SkyOrder>) => {
  const split = splitKey(map)
  self.postMessage({ split } satisfies SkyAnswer, { transfer: split ? [split.rest.data.buffer as ArrayBuffer] : [] })
}
