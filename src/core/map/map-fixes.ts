import { fullScale, type Image } from '../image/image'

const emptyLike = <T extends Image>(image: T, channels: number): T => ({
  ...image,
  channels,
  data: new (image.data.constructor as Uint8ArrayConstructor)(image.width * image.height * channels),
})

/** Grey in one channel, its alpha beside it where there is one that is used. */
export function toGrey<T extends Image>(image: T): T {
  const { channels, data } = image
  if (channels < 3) return image
  const hasAlpha = channels === 4
  const grey = emptyLike(image, hasAlpha ? 2 : 1)
  for (let p = 0, at = 0; p < data.length; p += channels, at += grey.channels) {
    grey.data[at] = Math.round(0.2126 * data[p] + 0.7152 * data[p + 1] + 0.0722 * data[p + 2])
    if (hasAlpha) grey.data[at + 1] = data[p + 3]
  }
  return grey
}

/** Without its alpha. */
export function dropAlpha<T extends Image>(image: T): T {
  const { channels, data } = image
  if (channels !== 2 && channels !== 4) return image
  const plain = emptyLike(image, channels - 1)
  for (let p = 0, at = 0; p < data.length; p += channels, at += plain.channels)
    for (let c = 0; c < plain.channels; c++) plain.data[at + c] = data[p + c]
  return plain
}

/**
 * Values stretched so that `low` becomes 0 and `high` full scale; alpha stays.
 * @param low and @param high 0..1
 * @throws RangeError where they are not in that order
 */
export function fillRange<T extends Image>(image: T, low: number, high: number): T {
  if (!(low >= 0 && high > low && high <= 1)) throw new RangeError(`a range from ${low} to ${high} cannot be filled`)
  const { channels, data } = image
  const top = fullScale(data)
  const alphaAt = channels === 2 || channels === 4 ? channels - 1 : -1
  const full = emptyLike(image, channels)
  const isWhole = !(data instanceof Float32Array)
  for (let i = 0; i < data.length; i++) {
    if (i % channels === alphaAt) full.data[i] = data[i]
    else {
      const value = Math.min(1, Math.max(0, (data[i] / top - low) / (high - low))) * top
      full.data[i] = isWhole ? Math.round(value) : value
    }
  }
  return full
}

/**
 * Colours carried on under what is clear, so that nothing else is mixed in where it ends: sums of colour by alpha are halved until one texel
 * is left, and each gap is filled from the next smaller (pull-push, Gortler et al. 1996). What is there, and alpha, stay to the code.
 */
export function bleedColors<T extends Image>(image: T): T {
  const { channels, data, width, height } = image
  if (channels !== 2 && channels !== 4) return image
  const colors = channels - 1
  const scale = 1 / fullScale(data)
  type Level = { width: number; height: number; sums: Float32Array }
  const stride = colors + 1
  const first: Level = { width, height, sums: new Float32Array(width * height * stride) }
  for (let k = 0; k < width * height; k++) {
    const alpha = data[k * channels + colors] * scale
    // Hardly there, a texel's colour is already mixed with what it was cut from.
    const weight = alpha > 0.5 ? alpha : 0
    for (let c = 0; c < colors; c++) first.sums[k * stride + c] = data[k * channels + c] * weight
    first.sums[k * stride + colors] = weight
  }
  const levels = [first]
  while (levels.at(-1)!.width > 1 || levels.at(-1)!.height > 1) levels.push(halve(levels.at(-1)!))
  for (let l = levels.length - 2; l >= 0; l--) fillFrom(levels[l], levels[l + 1])
  const bled = emptyLike(image, channels)
  bled.data.set(data as Uint8Array)
  for (let k = 0; k < width * height; k++) {
    if (data[k * channels + colors] * scale > 0.5) continue
    const weight = first.sums[k * stride + colors]
    if (weight > 0) for (let c = 0; c < colors; c++) bled.data[k * channels + c] = Math.round(first.sums[k * stride + c] / weight)
  }
  return bled

  function halve({ width, height, sums }: Level): Level {
    const half: Level = { width: Math.ceil(width / 2), height: Math.ceil(height / 2), sums: new Float32Array(0) }
    half.sums = new Float32Array(half.width * half.height * stride)
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const [from, to] = [(y * width + x) * stride, ((y >> 1) * half.width + (x >> 1)) * stride]
        for (let c = 0; c < stride; c++) half.sums[to + c] += sums[from + c]
      }
    return half
  }

  function fillFrom({ width, height, sums }: Level, coarser: Level): void {
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const at = (y * width + x) * stride
        if (sums[at + colors] > 0) continue
        const from = ((y >> 1) * coarser.width + (x >> 1)) * stride
        for (let c = 0; c < stride; c++) sums[at + c] = coarser.sums[from + c]
      }
  }
}
