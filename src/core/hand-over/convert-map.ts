import { fullScale, type Image, type PixelData } from '../image/image'

/** A copy whose green channel points the other way: a normal map of the other handedness. */
export const turnGreen = (image: Image): Image => change(image, (v, c, top) => (c === 1 ? top - v : v))

/** A copy of 1 − v, but for its alpha. */
export const invertValues = (image: Image): Image => {
  const alpha = image.channels === 2 || image.channels === 4 ? image.channels - 1 : -1
  return change(image, (v, c, top) => (c === alpha ? v : top - v))
}

function change(image: Image, next: (value: number, channel: number, top: number) => number): Image {
  const { channels } = image
  const data = image.data.slice()
  const top = fullScale(data)
  for (let i = 0; i < data.length; i++) data[i] = next(data[i], i % channels, top)
  return { ...image, data }
}

/** One channel by itself. @param channel clamped to those that there are */
export function pickChannel(image: Image, channel: number): Image {
  const { width, height, channels } = image
  if (channels === 1) return image
  const at = Math.min(channel, channels - 1)
  const data = createLike(image.data, width * height)
  for (let i = 0; i < data.length; i++) data[i] = image.data[i * channels + at]
  return { width, height, channels: 1, data }
}

/** A plane of a picture, or what stands everywhere in its place, 0..1. */
export type Plane = Image | number

/**
 * Three planes in one picture, as large and as deep as the largest and the deepest of them; texels of a smaller one are repeated.
 * @param planes of one channel each, at least one of them a picture
 * @throws RangeError when none is
 */
export function joinPlanes(planes: readonly [Plane, Plane, Plane]): Image {
  const pictures = planes.filter((p): p is Image => typeof p !== 'number')
  if (pictures.length === 0) throw new RangeError('planes: none of them is a picture')
  const width = Math.max(...pictures.map(p => p.width))
  const height = Math.max(...pictures.map(p => p.height))
  const deepest = pictures.reduce((a, b) => (b.data.BYTES_PER_ELEMENT > a.data.BYTES_PER_ELEMENT ? b : a))
  const data = createLike(deepest.data, width * height * 3)
  const top = fullScale(data)
  const round = data instanceof Float32Array ? (v: number) => v : Math.round
  for (const [c, plane] of planes.entries()) {
    if (typeof plane === 'number') {
      const value = round(plane * top)
      for (let i = c; i < data.length; i += 3) data[i] = value
      continue
    }
    const scale = top / fullScale(plane.data)
    for (let y = 0; y < height; y++) {
      const row = Math.floor(((y + 0.5) * plane.height) / height) * plane.width
      for (let x = 0; x < width; x++) {
        const texel = row + Math.floor(((x + 0.5) * plane.width) / width)
        data[(y * width + x) * 3 + c] = round(plane.data[texel * plane.channels] * scale)
      }
    }
  }
  return { width, height, channels: 3, data }
}

/** The same picture in codes of another depth. @param bits 8 or 16 */
export function toDepth(image: Image, bits: 8 | 16): Image {
  if (image.data instanceof (bits === 8 ? Uint8Array : Uint16Array)) return image
  const data = bits === 8 ? new Uint8Array(image.data.length) : new Uint16Array(image.data.length)
  const scale = fullScale(data) / fullScale(image.data)
  const top = fullScale(data)
  for (let i = 0; i < data.length; i++) data[i] = Math.round(Math.min(top, Math.max(0, (image.data[i] || 0) * scale)))
  return { ...image, data }
}

const createLike = (data: PixelData, length: number): PixelData =>
  data instanceof Uint8Array
    ? new Uint8Array(length)
    : data instanceof Uint16Array
      ? new Uint16Array(length)
      : new Float32Array(length)
