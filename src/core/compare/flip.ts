import { decodeSrgb } from '../color/srgb'
import { type ByteImage, createFloatImage, type FloatImage } from '../image/image'

/**
 * LDR-FLIP: how different two display-encoded pictures look when one alternates between them (Andersson et al. 2020, "FLIP: A
 * Difference Evaluator for Alternating Images"). Numbers in comments are the paper's sections.
 */

/** Pixels a degree of the visual field: a display 0.7 m away and 0.7 m wide of 3840 pixels, the paper's usual observer. */
export const DEFAULT_PIXELS_PER_DEGREE = 67

const QC = 0.7
const PC = 0.4
const PT = 0.95
const GW = 0.082
const QF = 0.5

/** D65 in XYZ, and linear Rec.709 to XYZ. */
const WHITE = [0.950428545, 1, 1.088900371]
const TO_XYZ = [0.4123908, 0.35758434, 0.18048079, 0.21263901, 0.71516868, 0.07219232, 0.01933082, 0.11919478, 0.95053215]
const FROM_XYZ = [3.24096994, -1.53738318, -0.49861076, -0.96924364, 1.8759675, 0.04155506, 0.05563008, -0.20397696, 1.05697151]

/** Contrast sensitivity of each opponent channel as a sum of two Gaussians (4.1.2): a1, b1, a2, b2. */
const SENSITIVITY = [
  [1, 0.0047, 0, 1e-5],
  [1, 0.0053, 0, 1e-5],
  [34.1, 0.04, 13.5, 0.025],
]

/**
 * @param reference and `test`: 8-bit sRGB, three channels, one size
 * @returns one channel, 0 (the same) to 1 for each pixel
 * @throws RangeError for pictures of other sizes or channels
 */
export function computeFlip(reference: ByteImage, test: ByteImage, pixelsPerDegree = DEFAULT_PIXELS_PER_DEGREE): FloatImage {
  if (reference.width !== test.width || reference.height !== test.height || reference.channels !== 3 || test.channels !== 3)
    throw new RangeError(
      `FLIP needs two RGB pictures of one size, got ${reference.width} x ${reference.height} x ${reference.channels} and ${test.width} x ${test.height} x ${test.channels}`,
    )
  const { width, height } = reference
  const out = createFloatImage(width, height, 1)
  const a = toOpponent(reference)
  const b = toOpponent(test)
  const featureA = measureFeatures(a[0], width, height, pixelsPerDegree)
  const featureB = measureFeatures(b[0], width, height, pixelsPerDegree)
  const labA = toHuntLab(filterOpponent(a, width, height, pixelsPerDegree))
  const labB = toHuntLab(filterOpponent(b, width, height, pixelsPerDegree))
  for (let p = 0; p < width * height; p++) {
    const color = redistribute(hyab(labA, labB, p) ** QC)
    const edge = Math.abs(featureA.edge[p] - featureB.edge[p])
    const point = Math.abs(featureA.point[p] - featureB.point[p])
    const feature = (Math.max(edge, point) / Math.SQRT2) ** QF
    out.data[p] = color ** (1 - Math.min(1, feature))
  }
  return out
}

type Planes = [Float32Array, Float32Array, Float32Array]

/** Into YCxCz, a linear relative of Lab. */
function toOpponent({ width, height, data }: ByteImage): Planes {
  const n = width * height
  const planes: Planes = [new Float32Array(n), new Float32Array(n), new Float32Array(n)]
  for (let p = 0; p < n; p++) {
    const r = decodeSrgb(data[p * 3] / 255)
    const g = decodeSrgb(data[p * 3 + 1] / 255)
    const b = decodeSrgb(data[p * 3 + 2] / 255)
    const x = (TO_XYZ[0] * r + TO_XYZ[1] * g + TO_XYZ[2] * b) / WHITE[0]
    const y = TO_XYZ[3] * r + TO_XYZ[4] * g + TO_XYZ[5] * b
    const z = (TO_XYZ[6] * r + TO_XYZ[7] * g + TO_XYZ[8] * b) / WHITE[2]
    planes[0][p] = 116 * y - 16
    planes[1][p] = 500 * (x - y)
    planes[2][p] = 200 * (y - z)
  }
  return planes
}

/** What the eye resolves of each channel. Both Gaussians of a channel are separable; their sum is mixed afterwards. */
function filterOpponent(planes: Planes, width: number, height: number, ppd: number): Planes {
  return planes.map((plane, channel) => {
    const [a1, b1, a2, b2] = SENSITIVITY[channel]
    const radius = Math.ceil(3 * Math.sqrt(Math.max(b1, b2) / (2 * Math.PI * Math.PI)) * ppd)
    const kernel = (b: number) =>
      Float64Array.from({ length: 2 * radius + 1 }, (_, i) => Math.exp((-Math.PI * Math.PI * ((i - radius) / ppd) ** 2) / b))
    const mass = (a: number, b: number, k: Float64Array) => a * Math.sqrt(Math.PI / b) * k.reduce((s, v) => s + v, 0) ** 2
    const first = kernel(b1)
    const filtered = convolve(plane, width, height, normalized(first), normalized(first))
    if (a2 === 0) return filtered
    const second = kernel(b2)
    const other = convolve(plane, width, height, normalized(second), normalized(second))
    const m1 = mass(a1, b1, first)
    const m2 = mass(a2, b2, second)
    return filtered.map((v, p) => (v * m1 + other[p] * m2) / (m1 + m2))
  }) as Planes
}

/** Lab with chroma scaled by lightness, for the Hunt effect (4.1.3). */
function toHuntLab(planes: Planes): Planes {
  const n = planes[0].length
  const out: Planes = [new Float32Array(n), new Float32Array(n), new Float32Array(n)]
  for (let p = 0; p < n; p++) {
    const y = (planes[0][p] + 16) / 116
    const x = (y + planes[1][p] / 500) * WHITE[0]
    const z = (y - planes[2][p] / 200) * WHITE[2]
    const r = clampUnit(FROM_XYZ[0] * x + FROM_XYZ[1] * y + FROM_XYZ[2] * z)
    const g = clampUnit(FROM_XYZ[3] * x + FROM_XYZ[4] * y + FROM_XYZ[5] * z)
    const b = clampUnit(FROM_XYZ[6] * x + FROM_XYZ[7] * y + FROM_XYZ[8] * z)
    writeHuntLab(r, g, b, out, p)
  }
  return out
}

function writeHuntLab(r: number, g: number, b: number, dst: Planes, p: number): void {
  const fx = labCurve((TO_XYZ[0] * r + TO_XYZ[1] * g + TO_XYZ[2] * b) / WHITE[0])
  const fy = labCurve(TO_XYZ[3] * r + TO_XYZ[4] * g + TO_XYZ[5] * b)
  const fz = labCurve((TO_XYZ[6] * r + TO_XYZ[7] * g + TO_XYZ[8] * b) / WHITE[2])
  const l = 116 * fy - 16
  dst[0][p] = l
  dst[1][p] = 0.01 * l * 500 * (fx - fy)
  dst[2][p] = 0.01 * l * 200 * (fy - fz)
}

const labCurve = (t: number): number => (t > (6 / 29) ** 3 ? Math.cbrt(t) : t / (3 * (6 / 29) ** 2) + 4 / 29)
const clampUnit = (v: number): number => Math.min(1, Math.max(0, v))

/** City-block in lightness, Euclidean in chroma, which holds for large differences (4.1.4). */
const hyab = (a: Planes, b: Planes, p: number): number =>
  Math.abs(a[0][p] - b[0][p]) + Math.hypot(a[1][p] - b[1][p], a[2][p] - b[2][p])

/** The largest difference there is between two display colours: green and blue. */
const LARGEST = (() => {
  const two: Planes = [new Float32Array(2), new Float32Array(2), new Float32Array(2)]
  writeHuntLab(0, 1, 0, two, 0)
  writeHuntLab(0, 0, 1, two, 1)
  const one = (k: number): Planes => two.map(plane => plane.subarray(k, k + 1)) as Planes
  return hyab(one(0), one(1), 0) ** QC
})()

/** Spreads small differences over most of the scale and squeezes large ones (4.1.5). */
function redistribute(difference: number): number {
  const limit = PC * LARGEST
  return difference < limit ? (PT / limit) * difference : Math.min(1, PT + ((difference - limit) / (LARGEST - limit)) * (1 - PT))
}

/** Strength of edges and of points in the lightness (4.2), by first and second derivatives of a Gaussian. */
function measureFeatures(luma: Float32Array, width: number, height: number, ppd: number) {
  const sd = 0.5 * GW * ppd
  const radius = Math.ceil(3 * sd)
  const at = Array.from({ length: 2 * radius + 1 }, (_, i) => i - radius)
  const gauss = Float64Array.from(at, x => Math.exp(-(x * x) / (2 * sd * sd)))
  const first = balanced(Float64Array.from(at, (x, i) => -x * gauss[i]))
  const second = balanced(Float64Array.from(at, (x, i) => ((x * x) / (sd * sd) - 1) * gauss[i]))
  const smooth = normalized(gauss)
  const y = luma.map(v => (v + 16) / 116)
  const strength = (kernel: Float64Array) => {
    const dx = convolve(y, width, height, kernel, smooth)
    const dy = convolve(y, width, height, smooth, kernel)
    return dx.map((v, p) => Math.hypot(v, dy[p]))
  }
  return { edge: strength(first), point: strength(second) }
}

function normalized(kernel: Float64Array): Float64Array {
  const sum = kernel.reduce((s, v) => s + v, 0)
  return kernel.map(v => v / sum)
}

/** Positive weights sum to 1, negative ones to −1. */
function balanced(kernel: Float64Array): Float64Array {
  const positive = kernel.reduce((s, v) => s + Math.max(v, 0), 0)
  const negative = kernel.reduce((s, v) => s + Math.max(-v, 0), 0)
  return kernel.map(v => (v > 0 ? v / positive : v / negative))
}

/** Separable convolution; the edge pixel goes on for ever. */
function convolve(src: Float32Array, width: number, height: number, alongX: Float64Array, alongY: Float64Array): Float32Array {
  const rx = alongX.length >> 1
  const ry = alongY.length >> 1
  const rows = new Float32Array(src.length)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      let sum = 0
      for (let k = -rx; k <= rx; k++) {
        const i = x + k
        sum += alongX[k + rx] * src[y * width + (i < 0 ? 0 : i >= width ? width - 1 : i)]
      }
      rows[y * width + x] = sum
    }
  const out = new Float32Array(src.length)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      let sum = 0
      for (let k = -ry; k <= ry; k++) {
        const j = y + k
        sum += alongY[k + ry] * rows[(j < 0 ? 0 : j >= height ? height - 1 : j) * width + x]
      }
      out[y * width + x] = sum
    }
  return out
}
