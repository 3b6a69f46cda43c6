/** Hue, saturation and value, each 0..1, of RGB 0..1. Source: A. R. Smith, "Color Gamut Transform Pairs", SIGGRAPH 1978. */
export function rgbToHsv(r: number, g: number, b: number): [number, number, number] {
  const high = Math.max(r, g, b)
  const span = high - Math.min(r, g, b)
  if (span <= 0) return [0, 0, high]
  const sixth = high === r ? ((g - b) / span + 6) % 6 : high === g ? (b - r) / span + 2 : (r - g) / span + 4
  return [sixth / 6, high > 0 ? span / high : 0, high]
}

/** RGB of hue (any number of turns), saturation and value. */
export function hsvToRgb(h: number, s: number, v: number): [number, number, number] {
  const channel = (shift: number): number => {
    const k = (((h * 6 + shift) % 6) + 6) % 6
    return v - v * s * Math.max(0, Math.min(k, 4 - k, 1))
  }
  return [channel(5), channel(3), channel(1)]
}
