import type { Vec3 } from '../math/vec3'

/** D65 white of sRGB in XYZ, from its primaries (IEC 61966-2-1). */
const WHITE: Vec3 = [0.9504559270516717, 1, 1.0890577507598784]
const EPSILON = 216 / 24389
const KAPPA = 24389 / 27
const DEG = Math.PI / 180

/** Linear Rec.709 RGB to CIELAB under D65. L* 0..100. Source: CIE 15:2018, 8.2.1. */
export function linearToLab(r: number, g: number, b: number): Vec3 {
  const f = (t: number) => (t > EPSILON ? Math.cbrt(t) : (KAPPA * t + 16) / 116)
  const x = f((0.4123907992659593 * r + 0.357584339383878 * g + 0.1804807884018343 * b) / WHITE[0])
  const y = f(0.2126390058715102 * r + 0.715168678767756 * g + 0.0721923153607337 * b)
  const z = f((0.0193308187155918 * r + 0.119194779794626 * g + 0.9505321522496607 * b) / WHITE[2])
  return [116 * y - 16, 500 * (x - y), 200 * (y - z)]
}

/** CIELAB under D65 to linear Rec.709 RGB, outside of 0..1 where the screen cannot show it. Source: CIE 15:2018, 8.2.1, inverted. */
export function labToLinear(l: number, a: number, b: number): Vec3 {
  const fy = (l + 16) / 116
  const back = (f: number) => (f ** 3 > EPSILON ? f ** 3 : (116 * f - 16) / KAPPA)
  const x = WHITE[0] * back(fy + a / 500)
  const y = back(fy)
  const z = WHITE[2] * back(fy - b / 200)
  return [
    3.2409699419045213 * x - 1.537383177570093 * y - 0.4986107602930033 * z,
    -0.9692436362808798 * x + 1.8759675015077206 * y + 0.0415550574071756 * z,
    0.0556300796969936 * x - 0.203976958888977 * y + 1.0569715142428786 * z,
  ]
}

/**
 * CIEDE2000 between two CIELAB colours, in plain numbers for loops over many of them. Unit: ΔE00.
 * Source: Sharma, Wu & Dalal 2005, "The CIEDE2000 color-difference formula", equations 2 to 22, with kL = kC = kH = 1.
 */
export function ciede2000(l1: number, a1: number, b1: number, l2: number, a2: number, b2: number): number {
  const g = 1 + 0.5 * (1 - saturate((Math.sqrt(a1 * a1 + b1 * b1) + Math.sqrt(a2 * a2 + b2 * b2)) / 2))
  const [p1, p2] = [a1 * g, a2 * g]
  const [c1, c2] = [Math.sqrt(p1 * p1 + b1 * b1), Math.sqrt(p2 * p2 + b2 * b2)]
  const isGrey = c1 * c2 === 0
  const h1 = c1 === 0 ? 0 : turnOf(p1, b1)
  const h2 = c2 === 0 ? 0 : turnOf(p2, b2)
  let dh = isGrey ? 0 : h2 - h1
  if (dh > Math.PI) dh -= TURN
  else if (dh < -Math.PI) dh += TURN
  const dH = 2 * Math.sqrt(c1 * c2) * Math.sin(dh / 2)
  const c = (c1 + c2) / 2
  let h = h1 + h2
  if (!isGrey) h = Math.abs(h1 - h2) <= Math.PI ? h / 2 : h < TURN ? (h + TURN) / 2 : (h - TURN) / 2
  // Cosines of two, three and four times the hue from one sine and one cosine of it.
  const [x, y] = [Math.cos(h), Math.sin(h)]
  const [x2, y2] = [x * x - y * y, 2 * x * y]
  const [x3, y3] = [x2 * x - y2 * y, y2 * x + x2 * y]
  const [x4, y4] = [x2 * x2 - y2 * y2, 2 * x2 * y2]
  const t = 1 - 0.17 * (x * COS30 + y * SIN30) + 0.24 * x2 + 0.32 * (x3 * COS6 - y3 * SIN6) - 0.2 * (x4 * COS63 + y4 * SIN63)
  const square = ((l1 + l2) / 2 - 50) ** 2
  const dl = (l2 - l1) / (1 + (0.015 * square) / Math.sqrt(20 + square))
  const dc = (c2 - c1) / (1 + 0.045 * c)
  const dhh = dH / (1 + 0.015 * c * t)
  const fromBlue = (h / DEG - 275) / 25
  const rotation = Math.abs(fromBlue) > 6 ? 0 : -2 * saturate(c) * Math.sin(60 * DEG * Math.exp(-fromBlue * fromBlue))
  return Math.sqrt(Math.max(0, dl * dl + dc * dc + dhh * dhh + rotation * dc * dhh))
}

const TURN = 2 * Math.PI
const [COS30, SIN30] = [Math.cos(30 * DEG), Math.sin(30 * DEG)]
const [COS6, SIN6] = [Math.cos(6 * DEG), Math.sin(6 * DEG)]
const [COS63, SIN63] = [Math.cos(63 * DEG), Math.sin(63 * DEG)]

/** Hue in 0..2π. */
function turnOf(a: number, b: number): number {
  const angle = Math.atan2(b, a)
  return angle < 0 ? angle + TURN : angle
}

/** √(c⁷ / (c⁷ + 25⁷)) */
function saturate(c: number): number {
  const c7 = c * c * c * (c * c * c) * c
  return Math.sqrt(c7 / (c7 + 6103515625))
}

/** The greatest weight on a difference in lightness: whatever differs more than this times a tolerance in L* is past it. */
export const MOST_LIGHTNESS_WEIGHT = 1 + (0.015 * 2500) / Math.sqrt(2520)
