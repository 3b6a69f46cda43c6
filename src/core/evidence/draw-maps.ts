import type { Finding } from '../findings/finding'
import { type ByteImage, fullScale, type Image } from '../image/image'
import { makeTileable } from '../material/fixes/make-tileable'
import { flipGreen, renormalize } from '../material/fixes/normal-fixes'
import { removeBakedLight } from '../material/fixes/remove-baked-light'
import { encodeForDisplay, invertValues } from '../material/fixes/value-fixes'
import type { MaterialSubject } from '../material/material-subject'
import { createCanvas, drawRepeats, drawTexels, EVIDENCE_HEIGHT, EVIDENCE_WIDTH, fillBox, INK, MARK, QUIET } from './canvas'
import type { EvidencePictures } from './evidence-pictures'

/** What a finding of a material looks like, and what its fix would make of it, from the maps that the check saw. */
export function drawMapEvidence(finding: Finding, { maps }: MaterialSubject): EvidencePictures | null {
  const map = maps.find(m => m.path === finding.subject)
  const image = map?.image
  if (!image) return null
  const pair = (draw: (i: Image) => ByteImage, fixed: Image | null): EvidencePictures => ({
    before: draw(image),
    after: fixed ? draw(fixed) : null,
  })
  switch (finding.code) {
    case 'tileSeam': {
      const axis = finding.evidence.axis === 'y' ? 'y' : 'x'
      return pair(i => drawSeam(i, axis), makeTileable([image], axis)[0])
    }
    case 'normalDirectX':
      return pair(drawLit, flipGreen(image))
    case 'normalNotUnitLength':
      return pair(drawLit, renormalize(image))
    case 'visibleRepeat':
      return { before: drawRepeats(map.image, 4), after: null }
    case 'bakedLight':
      return pair(i => drawRepeats(i, 3), removeBakedLight(image))
    case 'colorLooksLinear':
      return pair(i => drawRepeats(i, 1), encodeForDisplay(image))
    case 'albedoOutOfRange':
      return pair(i => drawHistogram(i, Number(finding.evidence.low) / 255, Number(finding.evidence.high) / 255), null)
    case 'glossAsRoughness':
      return pair(i => drawHistogram(i, Number(finding.evidence.low), Number(finding.evidence.high)), invertValues(image))
    case 'metalnessNotBinary':
      return pair(i => drawHistogram(i, 0.1, 0.9), null)
    case 'heightBanding':
      return pair(i => drawRepeats(i, 1), null)
    default:
      return null
  }
}

/** One to one, with both edges joined in the middle. */
export const drawSeam = (image: Image, axis: 'x' | 'y'): ByteImage => {
  const canvas =
    axis === 'x'
      ? drawTexels(image, image.width - EVIDENCE_WIDTH / 2, Math.floor((image.height - EVIDENCE_HEIGHT) / 2))
      : drawTexels(image, Math.floor((image.width - EVIDENCE_WIDTH) / 2), image.height - EVIDENCE_HEIGHT / 2)
  const [cx, cy] = [EVIDENCE_WIDTH / 2, EVIDENCE_HEIGHT / 2]
  // Two ticks at the rim say where the edge is; over the picture there is nothing.
  if (axis === 'x') {
    fillBox(canvas, cx - 1, 0, cx + 1, 8, MARK)
    fillBox(canvas, cx - 1, EVIDENCE_HEIGHT - 8, cx + 1, EVIDENCE_HEIGHT, MARK)
  } else {
    fillBox(canvas, 0, cy - 1, 8, cy + 1, MARK)
    fillBox(canvas, EVIDENCE_WIDTH - 8, cy - 1, EVIDENCE_WIDTH, cy + 1, MARK)
  }
  return canvas
}

/** Towards the light, in the map's own frame with green up: from the upper left, low. */
const LIGHT = [-0.5, 0.6, 0.62]

/** A plain grey surface with these normals, read green up, lit from the upper left: what is raised is bright above. */
function drawLit(image: Image): ByteImage {
  const canvas = drawTexels(image, 0, 0)
  const top = fullScale(image.data)
  const decode = (x: number, y: number, c: number) =>
    (image.data[((y % image.height) * image.width + (x % image.width)) * image.channels + c] / top) * 2 - 1
  for (let y = 0; y < canvas.height; y++)
    for (let x = 0; x < canvas.width; x++) {
      const lit = LIGHT[0] * decode(x, y, 0) + LIGHT[1] * decode(x, y, 1) + LIGHT[2] * decode(x, y, 2)
      const code = Math.round(255 * Math.min(1, Math.max(0, lit) * 0.9) ** (1 / 2.2))
      canvas.data.fill(code, (y * canvas.width + x) * 3, (y * canvas.width + x) * 3 + 3)
    }
  return canvas
}

const BINS = 64
const MARGIN = 16
const AXIS_Y = EVIDENCE_HEIGHT - 36

/** How often each value is there, the house band under it: bars inside the band dark, outside marked. */
function drawHistogram(image: Image, low: number, high: number): ByteImage {
  const canvas = createCanvas()
  const counts = new Float64Array(BINS)
  const top = fullScale(image.data)
  const color = Math.min(3, image.channels)
  for (let p = 0; p < image.data.length; p += image.channels) {
    let peak = 0
    for (let c = 0; c < color; c++) peak = Math.max(peak, image.data[p + c] / top)
    counts[Math.min(BINS - 1, Math.floor(peak * BINS))]++
  }
  const most = Math.max(...counts, 1)
  const width = (EVIDENCE_WIDTH - 2 * MARGIN) / BINS
  counts.forEach((count, k) => {
    const value = (k + 0.5) / BINS
    const tall = Math.sqrt(count / most) * (AXIS_Y - MARGIN)
    const x = MARGIN + k * width
    if (count > 0) fillBox(canvas, x, AXIS_Y - Math.max(1, tall), x + width - 1, AXIS_Y, value < low || value > high ? MARK : INK)
  })
  fillBox(canvas, MARGIN, AXIS_Y, EVIDENCE_WIDTH - MARGIN, AXIS_Y + 1, QUIET)
  const at = (value: number) => MARGIN + value * (EVIDENCE_WIDTH - 2 * MARGIN)
  fillBox(canvas, at(low), AXIS_Y + 6, at(high), AXIS_Y + 14, QUIET)
  return canvas
}
