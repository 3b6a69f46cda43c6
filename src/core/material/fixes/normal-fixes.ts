import { fullScale, type Image } from '../../image/image'

/** The same normal map for the other convention: green the other way up. */
export function flipGreen<T extends Image>(image: T): T {
  const data = image.data.slice()
  const top = fullScale(data)
  for (let i = 1; i < data.length; i += image.channels) data[i] = top - data[i]
  return { ...image, data }
}

/** Every normal brought to length 1; what has none, or faces backwards, faces straight up. */
export function renormalize<T extends Image>(image: T): T {
  const { channels } = image
  const data = image.data.slice()
  const top = fullScale(data)
  const decode = (v: number) => (v / top) * 2 - 1
  const encode = (v: number) => (data instanceof Float32Array ? (v + 1) / 2 : Math.round(((v + 1) / 2) * top))
  for (let i = 0; i + 2 < data.length; i += channels) {
    const x = decode(data[i])
    const y = decode(data[i + 1])
    const z = Math.max(decode(data[i + 2]), 0)
    const length = Math.hypot(x, y, z)
    const scale = length > 0.02 ? 1 / length : 0
    data[i] = encode(x * scale)
    data[i + 1] = encode(y * scale)
    data[i + 2] = encode(length > 0.02 ? z * scale : 1)
  }
  return { ...image, data }
}
