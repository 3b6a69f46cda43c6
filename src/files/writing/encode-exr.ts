import { deflateSync } from 'node:zlib'
import { type Deflate, type ExrForm, type ExrPart, writeExr, writeExrParts } from '#core/codecs/write-exr'
import type { FloatImage } from '#core/image/image'

/** ZIP by the platform's own zlib. */
const deflate: Deflate = raw => deflateSync(raw, { level: 6 })

/** OpenEXR, of half floats unless another form is asked for. */
export const encodeExr = (image: FloatImage, comment?: string, form?: ExrForm): Uint8Array =>
  writeExr(image, comment, deflate, form)

/** Several pictures of one size as an OpenEXR file of several parts. */
export const encodeExrParts = (parts: readonly ExrPart[], width: number, height: number, comment: string): Uint8Array =>
  writeExrParts(parts, width, height, comment, deflate)
