/**
 * Pixels in rows from the top, channels interleaved.
 * `Uint8Array` and `Uint16Array` hold codes over their full range; `Float32Array` holds values as they are.
 */
export interface Image<T extends PixelData = PixelData> {
  width: number
  height: number
  channels: number
  data: T
}

export type PixelData = Uint8Array | Uint16Array | Float32Array
export type FloatImage = Image<Float32Array>
export type ByteImage = Image<Uint8Array>

/** The largest code of the pixel type: what 1.0 is stored as. */
export const fullScale = (data: PixelData): number => (data instanceof Uint8Array ? 255 : data instanceof Uint16Array ? 65535 : 1)

export function createFloatImage(width: number, height: number, channels: number): FloatImage {
  return { width, height, channels, data: new Float32Array(width * height * channels) }
}

/** Throws a RangeError naming the mismatch; called once at the door of whatever then runs unchecked. */
export function assertImage(image: Image, purpose: string): void {
  const expected = image.width * image.height * image.channels
  if (!(image.width > 0 && image.height > 0 && image.channels > 0) || image.data.length !== expected) {
    throw new RangeError(
      `${purpose}: ${image.width} x ${image.height} x ${image.channels} needs ${expected} values, got ${image.data.length}`,
    )
  }
}

/** Texels a side that are looked at where a mean or a share is wanted: more of them change neither. */
const ENOUGH_A_SIDE = 256

/** Every how many columns and rows to look, for means and shares: odd, so that a weave of an even period does not hide between. */
export const texelSteps = ({ width, height }: Image): [number, number] => [oddStep(width), oddStep(height)]

const oddStep = (size: number): number => Math.max(1, Math.floor(size / ENOUGH_A_SIDE) - 1) | 1

/** Mean of one channel, in 0..1 (float images: as it is). */
export function meanOfChannel(image: Image, channel: number): number {
  const { width, height, channels, data } = image
  const [stepX, stepY] = texelSteps(image)
  let sum = 0
  let count = 0
  for (let y = 0; y < height; y += stepY)
    for (let x = 0; x < width; x += stepX, count++) sum += data[(y * width + x) * channels + channel]
  return count > 0 ? sum / count / fullScale(data) : 0
}

/** Share of the texels whose value of a channel lies above `low` and below `high`, in 0..1 (float images: as they are). */
export function shareBetween(image: Image, channel: number, low: number, high: number): number {
  const { width, height, channels, data } = image
  const [stepX, stepY] = texelSteps(image)
  const scale = fullScale(data)
  const [from, to] = [low * scale, high * scale]
  let between = 0
  let count = 0
  for (let y = 0; y < height; y += stepY)
    for (let x = 0; x < width; x += stepX, count++) {
      const value = data[(y * width + x) * channels + channel]
      if (value > from && value < to) between++
    }
  return count > 0 ? between / count : 0
}
