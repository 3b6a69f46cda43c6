import { describe, expect, it } from 'vitest'
import type { ByteImage } from '../../image/image'
import { createRandom } from '../../math/random'
import type { MaterialMap } from '../material-subject'
import { checkVisibleRepeat } from './visible-repeat.check'

const SIDE = 256
const subjectOf = (image: ByteImage) => {
  const map: MaterialMap = {
    role: 'baseColor',
    path: 'color.png',
    image,
    widthPx: SIDE,
    heightPx: SIDE,
    bitsPerChannel: 8,
    byContentOnly: false,
    profile: null,
  }
  return { maps: [map], widthMm: 500, category: null }
}

/** A picture from its display code at (x, y), with grain. */
function draw(codeAt: (x: number, y: number) => number): ByteImage {
  const random = createRandom(3)
  const data = new Uint8Array(SIDE * SIDE * 3)
  for (let y = 0; y < SIDE; y++)
    for (let x = 0; x < SIDE; x++) data.fill(codeAt(x, y) + random.between(-12, 12), (y * SIDE + x) * 3, (y * SIDE + x + 1) * 3)
  return { width: SIDE, height: SIDE, channels: 3, data }
}

/** A round spot of some codes more at the middle of a width, over the edges where it lies there. */
const spot = (u: number, v: number, width: number, more: number) => (x: number, y: number) => {
  const away = (a: number, b: number) => Math.min(Math.abs(a - b), SIDE - Math.abs(a - b))
  return Math.hypot(away(x, u * SIDE), away(y, v * SIDE)) < (width * SIDE) / 2 ? 140 + more : 140
}

describe('a repeat that shows', () => {
  it.each([
    [0.3, 0.6],
    [0.02, 0.97],
  ])('is one spot like no other, found where it is, at (%s, %s)', (u, v) => {
    const [finding] = checkVisibleRepeat(subjectOf(draw(spot(u, v, 0.18, -50))))
    expect(finding).toMatchObject({ code: 'visibleRepeat', subject: 'color.png' })
    expect(Number(finding.evidence.lightness)).toBeLessThan(-10)
    const off = (a: number, b: number) => Math.min(Math.abs(a - b), 1 - Math.abs(a - b))
    expect(off(Number(finding.evidence.u), u)).toBeLessThan(0.06)
    expect(off(Number(finding.evidence.v), v)).toBeLessThan(0.06)
  })

  it('is not grain, not a spot too faint to see, not a pattern of many spots', () => {
    expect(checkVisibleRepeat(subjectOf(draw(() => 140)))).toEqual([])
    expect(checkVisibleRepeat(subjectOf(draw(spot(0.5, 0.5, 0.18, -6))))).toEqual([])
    const board = (x: number, y: number) => ((Math.floor(x / 32) + Math.floor(y / 32)) % 2 === 0 ? 110 : 170)
    expect(checkVisibleRepeat(subjectOf(draw(board)))).toEqual([])
    // Boards of many tones: each of them is somewhere else on the scale.
    const tones = createRandom(11)
    const boards = Array.from({ length: 8 }, () => tones.between(90, 180))
    expect(checkVisibleRepeat(subjectOf(draw((_, y) => boards[Math.floor(y / 32)])))).toEqual([])
  })

  it('says nothing without a colour map', () => {
    expect(checkVisibleRepeat({ maps: [], widthMm: 1, category: null })).toEqual([])
  })
})
