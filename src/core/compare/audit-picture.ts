import { toLightness } from '../color/lightness'
import { linearToOklab } from '../color/oklab'
import { luminance, SRGB_TO_LINEAR } from '../color/srgb'
import type { ByteImage } from '../image/image'
import { percentile } from '../math/statistics'
import { PREVIEW_ASPECT } from '../render/rigs/rig'

/** What can be wrong with a picture that no rig made. */
export const PICTURE_FAULTS = [
  'aspect',
  'looksLinear',
  'subjectTooSmall',
  'subjectCut',
  'offCentre',
  'lowContrast',
  'dark',
  'bright',
] as const
export type PictureFault = (typeof PICTURE_FAULTS)[number]

export interface PictureAudit {
  aspect: number
  /** Larger extent of the subject over the frame's shorter side; null when nothing stands out from the background. */
  coverage: number | null
  /** Distance of the subject's middle from the frame's, over the frame's shorter side. */
  offCentre: number | null
  /** Difference in CIE L* between the subject and the background. */
  contrast: number | null
  /** Median CIE L* of the whole. */
  medianLightness: number
  looksLinear: boolean
  faults: PictureFault[]
  /** 100 for a picture as a rig would make it, less for each fault. */
  score: number
}

const PENALTY: Record<PictureFault, number> = {
  aspect: 15,
  looksLinear: 40,
  subjectTooSmall: 20,
  subjectCut: 15,
  offCentre: 15,
  lowContrast: 30,
  dark: 20,
  bright: 20,
}

/** A shadow to one side counts with its subject, and moves the middle by a tenth. */
const MOST_OFF_CENTRE = 0.16
/** A margin round the frame, as a share of its shorter side, in which background is expected. */
const MARGIN = 0.04
/** OKLab distance from the background at which a pixel belongs to the subject; lightness counts half, as a backdrop is shaded. */
const APART = 0.06
const LIGHTNESS_WEIGHT = 0.5

/**
 * Looks at a display-encoded RGB picture as a rig's maker would: aspect, how much of the frame the subject takes and where, how it
 * stands out, exposure, and whether it was saved without its display encoding.
 */
export function auditPicture(image: ByteImage): PictureAudit {
  const { width, height, channels, data } = image
  const pixels = width * height
  const lightness = new Float32Array(pixels)
  const lab = new Float32Array(pixels * 3)
  for (let p = 0; p < pixels; p++) {
    const at = p * channels
    const r = SRGB_TO_LINEAR[data[at]]
    const g = SRGB_TO_LINEAR[data[channels >= 3 ? at + 1 : at]]
    const b = SRGB_TO_LINEAR[data[channels >= 3 ? at + 2 : at]]
    lightness[p] = toLightness(luminance(r, g, b))
    lab.set(linearToOklab(r, g, b), p * 3)
  }
  const short = Math.min(width, height)
  const margin = Math.max(1, Math.round(short * MARGIN))
  const background = fitBackground(lab, width, height, margin)
  const inside: number[] = []
  const xs: number[] = []
  const ys: number[] = []
  const behind: number[] = []
  let onEdge = 0
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const p = y * width + x
      let squared = 0
      for (let c = 0; c < 3; c++) squared += ((lab[p * 3 + c] - background(x, y, c)) * (c === 0 ? LIGHTNESS_WEIGHT : 1)) ** 2
      if (squared < APART * APART) {
        behind.push(lightness[p])
        continue
      }
      inside.push(lightness[p])
      xs.push(x + 0.5)
      ys.push(y + 0.5)
      if (x === 0 || y === 0 || x === width - 1 || y === height - 1) onEdge++
    }
  const looks = looksLinear(image)
  const stands = inside.length > pixels * 0.005
  // The outermost hundredth is noise, dust and soft shadow.
  const [x0, x1, y0, y1] = stands
    ? [percentile(xs, 0.01), percentile(xs, 0.99), percentile(ys, 0.01), percentile(ys, 0.99)]
    : [0, 0, 0, 0]
  const coverage = stands ? Math.max(x1 - x0, y1 - y0) / short : null
  const offCentre = stands ? Math.hypot((x0 + x1) / 2 - width / 2, (y0 + y1) / 2 - height / 2) / short : null
  const contrast = stands && behind.length > 0 ? Math.abs(percentile(inside, 0.5) - percentile(behind, 0.5)) : null
  const medianLightness = percentile(lightness, 0.5)
  const faults: PictureFault[] = []
  if (Math.abs(width / height / PREVIEW_ASPECT - 1) > 0.02) faults.push('aspect')
  if (looks) faults.push('looksLinear')
  if (coverage === null || coverage < 0.45) faults.push('subjectTooSmall')
  if (onEdge > (width + height) * 0.1) faults.push('subjectCut')
  if (offCentre !== null && offCentre > MOST_OFF_CENTRE) faults.push('offCentre')
  if (contrast === null || contrast < 8) faults.push('lowContrast')
  if (medianLightness < 18) faults.push('dark')
  if (medianLightness > 93) faults.push('bright')
  const score = Math.max(0, 100 - faults.reduce((sum, f) => sum + PENALTY[f], 0))
  return { aspect: width / height, coverage, offCentre, contrast, medianLightness, looksLinear: looks, faults, score }
}

/** A plane through the margin's colours, robust against a subject that reaches into it: fitted to medians of its four sides. */
function fitBackground(lab: Float32Array, width: number, height: number, margin: number) {
  const side = (test: (x: number, y: number) => boolean, c: number) => {
    const values: number[] = []
    for (let y = 0; y < height; y++) for (let x = 0; x < width; x++) if (test(x, y)) values.push(lab[(y * width + x) * 3 + c])
    return percentile(values, 0.5)
  }
  const planes = [0, 1, 2].map(c => {
    const left = side(x => x < margin, c)
    const right = side(x => x >= width - margin, c)
    const top = side((_, y) => y < margin, c)
    const bottom = side((_, y) => y >= height - margin, c)
    return { base: (left + right + top + bottom) / 4, dx: right - left, dy: bottom - top }
  })
  return (x: number, y: number, c: number): number =>
    planes[c].base + planes[c].dx * ((x + 0.5) / width - 0.5) + planes[c].dy * ((y + 0.5) / height - 0.5)
}

/**
 * Whether an 8-bit picture seems to hold linear values, saved as if they were encoded. Stored linear, the middle of a lit picture
 * sinks and its dark parts sink far below the middle, while the lights keep their place. A picture without dark parts tells nothing,
 * and passes.
 */
export function looksLinear({ width, height, channels, data }: ByteImage): boolean {
  const codes = new Float32Array(width * height)
  for (let p = 0; p < codes.length; p++) {
    const at = p * channels
    codes[p] = channels >= 3 ? luminance(data[at], data[at + 1], data[at + 2]) / 255 : data[at] / 255
  }
  const dark = percentile(codes, 0.03)
  const middle = percentile(codes, 0.5)
  const light = percentile(codes, 0.98)
  // Encoded, the middle would be at middle^(1/2.2): it must be where a middle belongs only then.
  const encoded = middle ** (1 / 2.2)
  return light > 0.3 && middle < 0.5 && encoded > 0.3 && encoded < 0.78 && dark / middle < 0.25
}
