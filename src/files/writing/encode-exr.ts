import { deflateSync } from 'node:zlib'
import { writeExr } from '#core/codecs/exr'
import type { FloatImage } from '#core/image/image'

/** Half-float OpenEXR, ZIP compressed by the platform's own zlib. */
export const encodeExr = (image: FloatImage, comment?: string): Uint8Array =>
  writeExr(image, comment, raw => deflateSync(raw, { level: 6 }))
