/** sRGB transfer functions of IEC 61966-2-1 (the piecewise ones). */

export const decodeSrgb = (v: number): number => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4)

export const encodeSrgb = (v: number): number => (v <= 0.0031308 ? 12.92 * Math.max(v, 0) : 1.055 * v ** (1 / 2.4) - 0.055)

/** Linear value of each 8-bit sRGB code. */
export const SRGB_TO_LINEAR = Float32Array.from({ length: 256 }, (_, i) => decodeSrgb(i / 255))

const ENCODE_STEPS = 4096
const LINEAR_TO_BYTE = Uint8Array.from({ length: ENCODE_STEPS + 1 }, (_, i) => Math.round(encodeSrgb(i / ENCODE_STEPS) * 255))

/** Below this the table's steps are coarser than the codes. */
const DARK = 0.02
/** Least linear value of each code of the dark, and the code at the lower edge of each step through it. */
const DARK_FROM = Float64Array.from({ length: 48 }, (_, code) => (code === 0 ? 0 : decodeSrgb((code - 0.5) / 255)))
const DARK_STEPS = 2048
const DARK_TO_BYTE = Uint8Array.from({ length: DARK_STEPS + 1 }, (_, i) => Math.round(encodeSrgb((i / DARK_STEPS) * DARK) * 255))

/** Nearest 8-bit sRGB code of a linear value, clamped. Exact near black, table elsewhere. */
export function linearToSrgbByte(v: number): number {
  if (!(v > 0)) return 0
  if (v >= 1) return 255
  if (v >= DARK) return LINEAR_TO_BYTE[Math.round(v * ENCODE_STEPS)]
  let code = DARK_TO_BYTE[(v * (DARK_STEPS / DARK)) | 0]
  while (v >= DARK_FROM[code + 1]) code++
  return code
}

/** Relative luminance of linear Rec.709 RGB. */
export const luminance = (r: number, g: number, b: number): number => 0.2126 * r + 0.7152 * g + 0.0722 * b

/** Linear Rec.709 as the #rrggbb of its display codes. */
export const toHex = (linear: readonly number[]): string =>
  `#${linear.map(v => linearToSrgbByte(v).toString(16).padStart(2, '0')).join('')}`

/** The linear colour of #rrggbb; null where it is none. */
export function fromHex(hex: string): [number, number, number] | null {
  const found = /^#([0-9a-f]{6})$/i.exec(hex)
  return found
    ? ([0, 2, 4].map(i => SRGB_TO_LINEAR[Number.parseInt(found[1].slice(i, i + 2), 16)]) as [number, number, number])
    : null
}
