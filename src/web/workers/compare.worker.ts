import { comparePictures, type PictureDifference } from '#core/compare/compare-pictures'
import type { FloatImage } from '#core/image/image'

export interface CompareRequest {
  id: number
  a: FloatImage
  b: FloatImage
}
export type CompareAnswer = { id: number; difference: PictureDifference } | { id: number; message: string }

self.onmessage = ({ data: { id, a, b } }: MessageEvent<CompareRequest>) => {
  let answer: CompareAnswer
  try {
    answer = { id, difference: comparePictures(a, b) }
  } catch (error) {
    answer = { id, message: error instanceof RangeError ? error.message : 'The two pictures could not be compared.' }
  }
  self.postMessage(answer)
}
