import type { Finding } from '../findings/finding'
import { type ByteImage, fullScale, type Image } from '../image/image'
import { bleedColors, fillRange } from '../map/map-fixes'
import { makeTileable } from '../material/fixes/make-tileable'
import { createCanvas, drawRepeats, EVIDENCE_HEIGHT, EVIDENCE_WIDTH } from './canvas'
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

/** As a renderer shows it from afar: colours and alpha reduced apart, over a dark and a light ground. */
function drawReduced({ width, height, channels, data }: Image): ByteImage {
  const canvas = createCanvas()
  const scale = 255 / fullScale(data)
  const side = Math.min(EVIDENCE_WIDTH / 2, EVIDENCE_HEIGHT)
  const texels = Math.max(width, height) / (side / SHOWN_PX)
  const [wide, high] = [Math.max(1, Math.floor(width / texels)), Math.max(1, Math.floor(height / texels))]
  const colors = channels - 1
  for (let j = 0; j < high; j++)
    for (let i = 0; i < wide; i++) {
      const sums = new Float64Array(channels)
      const [x0, x1] = [Math.floor(i * texels), Math.max(Math.floor(i * texels) + 1, Math.floor((i + 1) * texels))]
      const [y0, y1] = [Math.floor(j * texels), Math.max(Math.floor(j * texels) + 1, Math.floor((j + 1) * texels))]
      let count = 0
      for (let y = y0; y < Math.min(y1, height); y++)
        for (let x = x0; x < Math.min(x1, width); x++, count++)
          for (let c = 0; c < channels; c++) sums[c] += data[(y * width + x) * channels + c] * scale
      if (count === 0) continue
      const alpha = sums[colors] / count / 255
      GROUNDS.forEach((ground, half) => {
        for (let y = 0; y < SHOWN_PX; y++)
          for (let x = 0; x < SHOWN_PX; x++) {
            const [u, v] = [half * (EVIDENCE_WIDTH / 2) + i * SHOWN_PX + x, j * SHOWN_PX + y]
            if (u >= (half + 1) * (EVIDENCE_WIDTH / 2) || v >= EVIDENCE_HEIGHT) continue
            for (let c = 0; c < 3; c++)
              canvas.data[(v * EVIDENCE_WIDTH + u) * 3 + c] = Math.round(
                (alpha * sums[colors < 3 ? 0 : c]) / count + (1 - alpha) * ground,
              )
          }
      })
    }
  return canvas
}

/** Pixels that a reduced texel is shown by. */
const SHOWN_PX = 4
const GROUNDS = [40, 226]
