import { oklabToLinear } from '#core/color/oklab'
import { linearToSrgbByte } from '#core/color/srgb'
import { toRadians } from '#core/math/angles'
import type { Vec3 } from '#core/math/vec3'

/** One texel of a generated material. */
export interface Texel {
  /** Linear Rec.709. */
  color: Vec3
  roughness: number
  metalness?: number
  /** In millimetres, any zero. */
  heightMm: number
}

export interface TextureRecipe {
  /** Supplier's folder and file stem. */
  folder: string
  stem: string
  widthMm: number
  /** Height of the tile over its width. */
  aspect?: number
  sizePx: number
  hasMetal?: boolean
  texel: (u: number, v: number) => Texel
}

export interface RawMap {
  role: 'basecolor' | 'normal' | 'roughness' | 'metalness' | 'height' | 'ao'
  width: number
  height: number
  channels: 1 | 3
  data: Uint8Array | Uint16Array
}

/** Evaluates a recipe into maps; normals (green up) and occlusion come from the height, so that they agree. */
export function makeMaps(recipe: TextureRecipe): RawMap[] {
  const width = recipe.sizePx
  const height = Math.round(recipe.sizePx * (recipe.aspect ?? 1))
  const count = width * height
  const color = new Uint8Array(count * 3)
  const rough = new Uint8Array(count)
  const metal = new Uint8Array(count)
  const relief = new Float32Array(count)
  let low = Infinity
  let high = -Infinity
  for (let y = 0, p = 0; y < height; y++)
    for (let x = 0; x < width; x++, p++) {
      const t = recipe.texel((x + 0.5) / width, (y + 0.5) / height)
      for (let c = 0; c < 3; c++) color[p * 3 + c] = linearToSrgbByte(t.color[c])
      rough[p] = Math.round(Math.min(Math.max(t.roughness, 0.02), 1) * 255)
      metal[p] = Math.round((t.metalness ?? 0) * 255)
      relief[p] = t.heightMm
      low = Math.min(low, t.heightMm)
      high = Math.max(high, t.heightMm)
    }
  const mmPerPx = recipe.widthMm / width
  const normal = new Uint8Array(count * 3)
  const ao = new Uint8Array(count)
  const depth = new Uint16Array(count)
  const range = Math.max(high - low, 1e-6)
  const blurred = blurWrapped(relief, width, height, Math.max(1, Math.round(width / 128)))
  for (let y = 0, p = 0; y < height; y++) {
    const up = ((y + height - 1) % height) * width
    const down = ((y + 1) % height) * width
    for (let x = 0; x < width; x++, p++) {
      const dx = (relief[y * width + ((x + 1) % width)] - relief[y * width + ((x + width - 1) % width)]) / (2 * mmPerPx)
      const dy = (relief[up + x] - relief[down + x]) / (2 * mmPerPx)
      const l = 127.5 / Math.hypot(dx, dy, 1)
      normal[p * 3] = Math.round(127.5 - dx * l)
      normal[p * 3 + 1] = Math.round(127.5 - dy * l)
      normal[p * 3 + 2] = Math.round(127.5 + l)
      depth[p] = Math.round(((relief[p] - low) / range) * 65535)
      const sunk = (blurred[p] - relief[p]) / (mmPerPx * (width / 128) * 2)
      ao[p] = Math.round(255 * Math.min(1, Math.max(0.25, 1 - Math.max(0, sunk))))
    }
  }
  const maps: RawMap[] = [
    { role: 'basecolor', width, height, channels: 3, data: color },
    { role: 'normal', width, height, channels: 3, data: normal },
    { role: 'roughness', width, height, channels: 1, data: rough },
    { role: 'height', width, height, channels: 1, data: depth },
    { role: 'ao', width, height, channels: 1, data: ao },
  ]
  if (recipe.hasMetal) maps.push({ role: 'metalness', width, height, channels: 1, data: metal })
  return maps
}

/** Running box mean with wrap, rows then columns. */
function blurWrapped(src: Float32Array, width: number, height: number, radius: number): Float32Array {
  const pass = (input: Float32Array, count: number, lines: number, step: number, lineStep: number) => {
    const out = new Float32Array(input.length)
    for (let l = 0; l < lines; l++) {
      const base = l * lineStep
      let sum = 0
      for (let k = -radius; k <= radius; k++) sum += input[base + ((k + count) % count) * step]
      for (let i = 0; i < count; i++) {
        out[base + i * step] = sum / (2 * radius + 1)
        sum += input[base + ((i + radius + 1) % count) * step] - input[base + ((i - radius + count) % count) * step]
      }
    }
    return out
  }
  return pass(pass(src, width, height, 1, width), height, width, width, 1)
}

/** Linear colour from OKLab lightness, chroma and hue in degrees. */
export function lch(lightness: number, chroma: number, hueDeg: number): Vec3 {
  const h = toRadians(hueDeg)
  const [r, g, b] = oklabToLinear(lightness, chroma * Math.cos(h), chroma * Math.sin(h))
  return [Math.max(r, 0), Math.max(g, 0), Math.max(b, 0)]
}

export const mixColor = (a: Vec3, b: Vec3, t: number): Vec3 => [
  a[0] + (b[0] - a[0]) * t,
  a[1] + (b[1] - a[1]) * t,
  a[2] + (b[2] - a[2]) * t,
]
