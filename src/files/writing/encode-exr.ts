import { deflateSync } from 'node:zlib'
import { type ExrForm, writeExr } from '#core/codecs/exr'
import type { FloatImage } from '#core/image/image'

/** OpenEXR, of half floats unless another form is asked for, ZIP compressed by the platform's own zlib. */
export const encodeExr = (image: FloatImage, comment?: string, form?: ExrForm): Uint8Array =>
  writeExr(image, comment, raw => deflateSync(raw, { level: 6 }), form)
