/** IEEE 754 binary16 both ways. */

/** The value of each of the 65,536 halves. */
export const HALF_TO_FLOAT = Float32Array.from({ length: 65536 }, (_, half) => {
  const sign = half & 0x8000 ? -1 : 1
  const exponent = (half >> 10) & 31
  const fraction = half & 1023
  if (exponent === 0) return sign * fraction * 2 ** -24
  if (exponent === 31) return fraction ? Number.NaN : sign * Number.POSITIVE_INFINITY
  return sign * (1 + fraction / 1024) * 2 ** (exponent - 15)
})

export const halfToFloat = (half: number): number => HALF_TO_FLOAT[half]

const scratch = new DataView(new ArrayBuffer(4))

/** Nearest half, ties to even; what is past 65504 becomes infinity, as the standard has it. */
export function floatToHalf(value: number): number {
  scratch.setFloat32(0, value)
  const bits = scratch.getUint32(0)
  const sign = (bits >>> 16) & 0x8000
  const exponent = (bits >>> 23) & 255
  const fraction = bits & 0x7fffff
  if (exponent === 255) return sign | 0x7c00 | (fraction ? 0x200 : 0)
  const shifted = exponent - 112
  if (shifted >= 31) return sign | 0x7c00
  if (shifted <= 0) {
    if (shifted < -10) return sign
    const full = fraction | 0x800000
    const shift = 14 - shifted
    const base = full >>> shift
    const rest = full & ((1 << shift) - 1)
    const midpoint = 1 << (shift - 1)
    return sign | (base + (rest > midpoint || (rest === midpoint && base & 1) ? 1 : 0))
  }
  const base = (shifted << 10) | (fraction >>> 13)
  const rest = fraction & 0x1fff
  return sign | (base + (rest > 0x1000 || (rest === 0x1000 && base & 1) ? 1 : 0))
}
