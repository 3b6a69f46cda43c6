import { decodeSrgb, encodeSrgb } from '../color/srgb'
import { type ByteImage, fullScale, type Image } from '../image/image'
import type { Vec3 } from '../math/vec3'
import { type OpenPbrMaterial, reliefOf, type TextureBinding, type TextureSlot } from './open-pbr'

/** How a material is altered as a whole, whether its maps say it or its constants. Each is a factor, and 1 leaves it as it is. */
export interface MaterialShift {
  /** Of the base colour, linear. */
  tint: Vec3
  roughness: number
  /** Of the slopes of its normals, and of the height of its relief. */
  relief: number
}

export const NO_SHIFT: Readonly<MaterialShift> = { tint: [1, 1, 1], roughness: 1, relief: 1 }

export const isShifted = ({ tint, roughness, relief }: MaterialShift): boolean =>
  tint.some(v => v !== 1) || roughness !== 1 || relief !== 1

/** A tint as a colour whose strongest channel is 1, and stops of light over it. */
export function splitTint(tint: Vec3): { color: Vec3; stops: number } {
  const peak = Math.max(...tint)
  if (!(peak > 0)) return { color: [1, 1, 1], stops: DARKEST_STOPS }
  return { color: [tint[0] / peak, tint[1] / peak, tint[2] / peak], stops: Math.log2(peak) }
}
const DARKEST_STOPS = -8

export function joinTint({ color, stops }: { color: Vec3; stops: number }): Vec3 {
  const factor = 2 ** stops
  return [color[0] * factor, color[1] * factor, color[2] * factor]
}

/** The constants of a material, shifted; its maps are not touched. */
export function shiftParameters(material: OpenPbrMaterial, { tint, roughness, relief }: MaterialShift): OpenPbrMaterial {
  const { parameters } = material
  return {
    ...material,
    parameters: {
      ...parameters,
      baseColor: parameters.baseColor.map((v, k) => clamp(v * tint[k])) as Vec3,
      specularRoughness: clamp(parameters.specularRoughness * roughness),
    },
    ...(material.textures.displacement && relief !== 1 ? { reliefM: reliefOf(material) * relief } : {}),
  }
}

/**
 * A material with its maps shifted. Pictures of 8 bits; what several slots share stays as it is for the others.
 * @param material with its constants shifted already
 */
export function shiftMaps(
  material: OpenPbrMaterial,
  images: readonly ByteImage[],
  shift: MaterialShift,
): { material: OpenPbrMaterial; images: readonly ByteImage[] } {
  const all = [...images]
  const textures = { ...material.textures }
  const put = (slot: TextureSlot, make: (image: ByteImage, binding: TextureBinding) => ByteImage) => {
    const binding = textures[slot]
    const image = binding && images[binding.image]
    if (binding && image) textures[slot] = { ...binding, image: all.push(make(image, binding)) - 1 }
  }
  if (shift.tint.some(v => v !== 1)) put('baseColor', image => shiftColors(image, shift.tint))
  if (shift.roughness !== 1)
    put('specularRoughness', (image, { channel, inverted }) => shiftValues(image, shift.roughness, channel, inverted))
  if (shift.relief !== 1) put('geometryNormal', image => shiftNormals(image, shift.relief))
  return { material: { ...material, textures }, images: all }
}

/** Colours times a tint, in linear light; codes are taken as sRGB, floats as linear. An alpha channel stays. */
export function shiftColors<T extends Image>(image: T, tint: Vec3): T {
  const { channels } = image
  const colors = channels >= 3 ? 3 : 1
  const top = fullScale(image.data)
  const isFloat = image.data instanceof Float32Array
  const data = image.data.slice()
  for (let c = 0; c < colors; c++) {
    // What has one channel is grey: it takes the tint's light alone.
    const factor = colors === 3 ? tint[c] : 0.2126 * tint[0] + 0.7152 * tint[1] + 0.0722 * tint[2]
    const table = isFloat ? null : tableOf(top, v => encodeSrgb(clamp(decodeSrgb(v) * factor)))
    for (let i = c; i < data.length; i += channels) data[i] = table ? table[data[i]] : data[i] * factor
  }
  return { ...image, data }
}

/**
 * One channel times a factor, within 0 to 1.
 * @param inverted the stored value v means 1 − v
 */
export function shiftValues<T extends Image>(image: T, factor: number, channel = 0, inverted = false): T {
  const { channels } = image
  const top = fullScale(image.data)
  const alter = (v: number) => (inverted ? 1 - clamp((1 - v) * factor) : clamp(v * factor))
  const table = image.data instanceof Float32Array ? null : tableOf(top, alter)
  const data = image.data.slice()
  for (let i = Math.min(channel, channels - 1); i < data.length; i += channels) data[i] = table ? table[data[i]] : alter(data[i])
  return { ...image, data }
}

/** Normals whose slopes are so many times as steep, of length 1 again. */
export function shiftNormals<T extends Image>(image: T, factor: number): T {
  const { channels } = image
  if (channels < 3) return image
  const top = fullScale(image.data)
  const isFloat = image.data instanceof Float32Array
  const data = image.data.slice()
  const decode = (v: number) => (v / top) * 2 - 1
  const encode = (v: number) => (isFloat ? (v + 1) / 2 : Math.round(((v + 1) / 2) * top))
  for (let i = 0; i + 2 < data.length; i += channels) {
    const x = decode(data[i]) * factor
    const y = decode(data[i + 1]) * factor
    const z = Math.max(decode(data[i + 2]), 0)
    const length = Math.hypot(x, y, z)
    if (!(length > 0)) continue
    data[i] = encode(x / length)
    data[i + 1] = encode(y / length)
    data[i + 2] = encode(z / length)
  }
  return { ...image, data }
}

const clamp = (v: number): number => Math.min(1, Math.max(0, v))

/** Of every code what it becomes. */
const tableOf = (top: number, alter: (v: number) => number): Uint16Array =>
  Uint16Array.from({ length: top + 1 }, (_, code) => Math.round(alter(code / top) * top))
