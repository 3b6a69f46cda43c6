import type { Finding } from '../findings/finding'
import { type ByteImage, fullScale, type Image } from '../image/image'
import { bleedColors, fillRange } from '../map/map-fixes'
import { makeTileable } from '../material/fixes/make-tileable'
import type { Vec3 } from '../math/vec3'
import { createCanvas, drawRepeats, EVIDENCE_HEIGHT, EVIDENCE_WIDTH, fillBox } from './canvas'
import { drawSeam } from './draw-maps'
import type { EvidencePictures } from './evidence-pictures'

/** What a finding of a stand-alone map looks like, and what its fix would make of it. */
export function drawFlatEvidence(finding: Finding, image: Image): EvidencePictures | null {
  switch (finding.code) {
    case 'tileSeam': {
      const axis = finding.evidence.axis === 'y' ? 'y' : 'x'
      return { before: drawSeam(image, axis), after: drawSeam(makeTileable([image], axis)[0], axis) }
    }
    case 'rangeNotFull': {
      const full = fillRange(image, Number(finding.evidence.low), Number(finding.evidence.high))
      return { before: drawRepeats(image, 1), after: drawRepeats(full, 1) }
    }
    case 'edgeFringe':
      return { before: drawReduced(image), after: drawReduced(bleedColors(image)) }
    default:
      return null
  }
}

/** Pixels that a reduced texel is shown by. */
const SHOWN_PX = 4
/** Display codes behind it, one for each half of the picture. */
const GROUNDS = [40, 226]
const HALF_WIDTH = EVIDENCE_WIDTH / GROUNDS.length

/** As a renderer shows it from afar: colours and alpha reduced apart, over a dark and a light ground. */
function drawReduced(image: Image): ByteImage {
  const canvas = createCanvas()
  const { width, height, channels } = image
  const texels = Math.max(width / (HALF_WIDTH / SHOWN_PX), height / (EVIDENCE_HEIGHT / SHOWN_PX))
  const [wide, high] = [Math.max(1, Math.floor(width / texels)), Math.max(1, Math.floor(height / texels))]
  const [left, top] = [Math.floor((HALF_WIDTH - wide * SHOWN_PX) / 2), Math.floor((EVIDENCE_HEIGHT - high * SHOWN_PX) / 2)]
  GROUNDS.forEach((ground, half) => {
    fillBox(canvas, half * HALF_WIDTH, 0, (half + 1) * HALF_WIDTH, EVIDENCE_HEIGHT, [ground, ground, ground])
  })
  for (let j = 0; j < high; j++)
    for (let i = 0; i < wide; i++) {
      const mean = meanOf(image, i * texels, j * texels, texels)
      const alpha = mean[channels - 1] / 255
      GROUNDS.forEach((ground, half) => {
        const color = [0, 1, 2].map(c => Math.round(alpha * mean[channels < 4 ? 0 : c] + (1 - alpha) * ground)) as Vec3
        const [x, y] = [half * HALF_WIDTH + left + i * SHOWN_PX, top + j * SHOWN_PX]
        fillBox(canvas, x, y, x + SHOWN_PX, y + SHOWN_PX, color)
      })
    }
  return canvas
}

/** Mean display code of each channel over a square of texels. */
function meanOf({ width, height, channels, data }: Image, left: number, top: number, side: number): number[] {
  const scale = 255 / fullScale(data)
  const sums = new Array<number>(channels).fill(0)
  const [x0, y0] = [Math.floor(left), Math.floor(top)]
  const [x1, y1] = [Math.max(x0 + 1, Math.floor(left + side)), Math.max(y0 + 1, Math.floor(top + side))]
  let count = 0
  for (let y = y0; y < Math.min(y1, height); y++)
    for (let x = x0; x < Math.min(x1, width); x++, count++)
      for (let c = 0; c < channels; c++) sums[c] += data[(y * width + x) * channels + c] * scale
  return sums.map(sum => sum / Math.max(count, 1))
}
