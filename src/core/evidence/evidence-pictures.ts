import type { ByteImage } from '../image/image'

/** A finding as a picture, and the same after its fix where one can be computed. */
export interface EvidencePictures {
  before: ByteImage
  after: ByteImage | null
}
