import { luminance } from '../color/srgb'
import { closeSeam, repairPixels, rollPanorama, rollToHeading } from '../environment/fixes/environment-fixes'
import type { Finding } from '../findings/finding'
import type { ByteImage, FloatImage } from '../image/image'
import { percentile } from '../math/statistics'
import { developForDisplay } from '../render/film/develop'
import { createCanvas, EVIDENCE_HEIGHT, EVIDENCE_WIDTH, fillBox, MARK } from './canvas'
import type { EvidencePictures } from './evidence-pictures'

/** A panorama as its pictures are drawn from: once for all findings of it. */
export interface PanoramaView {
  map: FloatImage
  /** As large as it is drawn, what is no light taken as black. */
  small: FloatImage
  /** Brings its median to the middle of the display. */
  gain: number
}

export const viewPanorama = (map: FloatImage): PanoramaView => ({
  map,
  small: reduceSound(map, Math.min(EVIDENCE_WIDTH, map.width), Math.min(STRIP, map.height)),
  gain: exposureOf(map),
})

/** What a finding of an environment looks like on its panorama, and what its fix makes of it. */
export function drawPanoramaEvidence(
  finding: Finding,
  { map, small, gain }: PanoramaView,
  sun: { azimuthDeg: number; elevationDeg: number } | null,
): EvidencePictures | null {
  switch (finding.code) {
    case 'ringingPixels':
    case 'badPixels': {
      const before = drawWhole(small, gain)
      markBad(before, map)
      return { before, after: drawWhole(viewPanorama(repairPixels(map)).small, gain) }
    }
    case 'environmentSeam': {
      const draw = (m: FloatImage) => drawSeam(m, gain)
      return { before: draw(map), after: draw(closeSeam(map)) }
    }
    case 'sunClipped': {
      const before = drawWhole(small, gain)
      if (sun) {
        const x = (sun.azimuthDeg / 360 + 0.5) * EVIDENCE_WIDTH
        const y = TOP + (0.5 - sun.elevationDeg / 180) * STRIP
        for (const [dx, dy, w, h] of [
          [-22, -1, 14, 2],
          [8, -1, 14, 2],
          [-1, -22, 2, 14],
          [-1, 8, 2, 14],
        ])
          fillBox(before, x + dx, y + dy, x + dx + w, y + dy + h, MARK)
      }
      return { before, after: null }
    }
    case 'headingOff': {
      const { azimuthDeg, houseDeg } = finding.evidence
      return {
        before: drawWhole(small, gain),
        after: drawWhole(rollToHeading(small, Number(azimuthDeg), Number(houseDeg)), gain),
      }
    }
    // As it would show without anybody setting an exposure, before and after.
    case 'exposureOff':
      return { before: drawWhole(small, 1), after: drawWhole(small, Number(finding.evidence.gain)) }
    case 'notTwoToOne':
    case 'fewLevels':
      return { before: drawWhole(small, gain), after: null }
    default:
      return null
  }
}

/** A 2:1 strip in the middle of the picture. */
const STRIP = EVIDENCE_WIDTH / 2
const TOP = (EVIDENCE_HEIGHT - STRIP) / 2
const MIDDLE = 0.22

function exposureOf({ data, channels }: FloatImage): number {
  const step = Math.max(1, Math.floor(data.length / channels / 20_000)) * channels
  const values: number[] = []
  for (let i = 0; i + 2 < data.length; i += step) {
    const y = luminance(data[i], data[i + 1], data[i + 2])
    if (y >= 0 && y < 1e30) values.push(y)
  }
  const median = values.length > 0 ? percentile(values, 0.5) : 0
  return median > 0 ? MIDDLE / median : 1
}

const sound = (v: number): number => (v >= 0 && v < 1e30 ? v : 0)

/** Means over boxes of whole pixels. */
function reduceSound({ width, height, channels, data }: FloatImage, outWidth: number, outHeight: number): FloatImage {
  const out = new Float32Array(outWidth * outHeight * 3)
  const counts = new Uint32Array(outWidth * outHeight)
  for (let y = 0; y < height; y++) {
    const row = Math.floor((y * outHeight) / height) * outWidth
    for (let x = 0, p = y * width * channels; x < width; x++, p += channels) {
      const at = row + Math.floor((x * outWidth) / width)
      counts[at]++
      for (let c = 0; c < 3; c++) out[at * 3 + c] += sound(data[p + Math.min(c, channels - 1)])
    }
  }
  for (let i = 0; i < out.length; i++) out[i] /= Math.max(1, counts[Math.floor(i / 3)])
  return { width: outWidth, height: outHeight, channels: 3, data: out }
}

function drawWhole(small: FloatImage, gain: number): ByteImage {
  const { width, height } = small
  const developed = developForDisplay({ ...small, data: small.data.map(v => v * gain) })
  const canvas = createCanvas([120, 120, 120])
  for (let y = 0; y < STRIP; y++)
    for (let x = 0; x < EVIDENCE_WIDTH; x++) {
      const from = (Math.floor((y * height) / STRIP) * width + Math.floor((x * width) / EVIDENCE_WIDTH)) * 3
      const at = ((TOP + y) * EVIDENCE_WIDTH + x) * 3
      for (let c = 0; c < 3; c++) canvas.data[at + c] = developed.data[from + c]
    }
  return canvas
}

/** A mark large enough to be found for each bad pixel. */
function markBad(canvas: ByteImage, { width, height, channels, data }: FloatImage): void {
  for (let p = 0; p < width * height; p++) {
    let isBad = false
    for (let c = 0; c < Math.min(3, channels); c++) if (data[p * channels + c] !== sound(data[p * channels + c])) isBad = true
    if (!isBad) continue
    const x = ((p % width) / width) * EVIDENCE_WIDTH
    const y = TOP + (Math.floor(p / width) / height) * STRIP
    fillBox(canvas, x - 2, y - 2, x + 3, y + 3, MARK)
  }
}

/** One to one, left and right edge joined in the middle, at the height where most of the light is: about the horizon. */
function drawSeam(map: FloatImage, gain: number): ByteImage {
  const canvas = createCanvas()
  const rolled = rollPanorama(map, map.width >> 1)
  const top = Math.max(0, Math.floor((map.height - EVIDENCE_HEIGHT) / 2))
  const left = Math.floor((map.width - EVIDENCE_WIDTH) / 2)
  const crop: FloatImage = {
    width: EVIDENCE_WIDTH,
    height: EVIDENCE_HEIGHT,
    channels: 3,
    data: new Float32Array(canvas.data.length),
  }
  for (let y = 0; y < EVIDENCE_HEIGHT; y++)
    for (let x = 0; x < EVIDENCE_WIDTH; x++) {
      const [u, v] = [left + x, top + y]
      if (u < 0 || u >= map.width || v >= map.height) continue
      for (let c = 0; c < 3; c++)
        crop.data[(y * EVIDENCE_WIDTH + x) * 3 + c] = sound(rolled.data[(v * map.width + u) * map.channels + c]) * gain
    }
  const developed = developForDisplay(crop)
  fillBox(developed, EVIDENCE_WIDTH / 2 - 1, 0, EVIDENCE_WIDTH / 2 + 1, 8, MARK)
  fillBox(developed, EVIDENCE_WIDTH / 2 - 1, EVIDENCE_HEIGHT - 8, EVIDENCE_WIDTH / 2 + 1, EVIDENCE_HEIGHT, MARK)
  return developed
}
