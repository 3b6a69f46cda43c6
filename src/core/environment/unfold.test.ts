import { describe, expect, it } from 'vitest'
import { parseHdr, writeHdr } from '../codecs/hdr'
import { createFloatImage, type FloatImage } from '../image/image'
import type { Vec3 } from '../math/vec3'
import { looksLikePanorama } from './looks-like-panorama'
import { columnAzimuth, directionOf, rowElevation } from './sphere'
import { recognizeUnfolding, unfold } from './unfold'

/** A surrounding in which every direction has its own smooth colour. */
const radiance = ([x, y, z]: Vec3): Vec3 => [1 + 0.5 * x + 0.2 * z, 1 + 0.5 * y, 1 + 0.5 * z + 0.3 * x * y]

function draw(width: number, height: number, colorAt: (u: number, v: number) => Vec3 | null): FloatImage {
  const image = createFloatImage(width, height, 3)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      image.data.set(colorAt((x + 0.5) / width, (y + 0.5) / height) ?? [0, 0, 0], (y * width + x) * 3)
  return image
}

const unit = (v: Vec3): Vec3 => v.map(c => c / Math.hypot(...v)) as Vec3

/** Direction of a place on a face, each told by its own corners: right and down from its upper left one. */
const FACES: Record<string, (a: number, b: number) => Vec3> = {
  left: (a, b) => [-1, -b, -a],
  front: (a, b) => [a, -b, -1],
  right: (a, b) => [1, -b, a],
  back: (a, b) => [-a, -b, 1],
  top: (a, b) => [a, 1, -b],
  bottom: (a, b) => [a, -1, b],
  // Below the bottom the back stands on its head.
  backTurned: (a, b) => [a, b, 1],
}

const cross = (layout: (string | null)[][], face: number): FloatImage =>
  draw(layout[0].length * face, layout.length * face, (u, v) => {
    const [x, y] = [u * layout[0].length, v * layout.length]
    const name = layout[Math.floor(y)][Math.floor(x)]
    return name === null ? null : radiance(unit(FACES[name](2 * (x % 1) - 1, 2 * (y % 1) - 1)))
  })

const ball = (size: number): FloatImage =>
  draw(size, size, (u, v) => {
    const [nx, ny] = [2 * u - 1, 1 - 2 * v]
    const square = nx * nx + ny * ny
    if (square > 1) return null
    const nz = Math.sqrt(1 - square)
    // What the mirror sends along +z to the camera.
    return radiance([2 * nz * nx, 2 * nz * ny, 2 * nz * nz - 1])
  })

const SHAPES = {
  verticalCross: cross(
    [
      [null, 'top', null],
      ['left', 'front', 'right'],
      [null, 'bottom', null],
      [null, 'backTurned', null],
    ],
    64,
  ),
  horizontalCross: cross(
    [
      [null, 'top', null, null],
      ['left', 'front', 'right', 'back'],
      [null, 'bottom', null, null],
    ],
    64,
  ),
  mirrorBall: ball(257),
}

describe('crosses and balls', () => {
  for (const [name, image] of Object.entries(SHAPES) as [keyof typeof SHAPES, FloatImage][])
    it(`${name}: is known by its shape, and every direction is where a panorama has it`, () => {
      expect(recognizeUnfolding(image)).toBe(name)
      const panorama = unfold(image, name)
      expect(panorama.width).toBe(2 * panorama.height)
      let worst = 0
      for (let y = 0; y < panorama.height; y += 3)
        for (let x = 0; x < panorama.width; x += 5) {
          const direction = directionOf(columnAzimuth(x, panorama.width), rowElevation(y, panorama.height))
          // Right behind the ball its rim has everything at once.
          if (name === 'mirrorBall' && direction[2] < -0.93) continue
          const wanted = radiance(direction)
          for (let c = 0; c < 3; c++)
            worst = Math.max(worst, Math.abs(panorama.data[(y * panorama.width + x) * 3 + c] - wanted[c]))
        }
      expect(worst).toBeLessThan(name === 'mirrorBall' ? 0.06 : 0.03)
    })

  it('are not read into pictures whose corners hold something, or of other proportions', () => {
    expect(recognizeUnfolding(draw(96, 128, (u, v) => [u, v, 1]))).toBeNull()
    expect(recognizeUnfolding(draw(128, 128, (u, v) => [u, v, 1]))).toBeNull()
    expect(recognizeUnfolding(draw(128, 64, () => [1, 1, 1]))).toBeNull()
  })
})

describe('flat pictures', () => {
  const bytes = (image: FloatImage) => ({ ...image, data: Uint8Array.from(image.data, v => Math.min(255, v * 120)) })
  const panorama = (noise = 0) =>
    bytes(
      draw(256, 128, (u, v) => {
        const direction = directionOf(columnAzimuth(u * 256 - 0.5, 256), rowElevation(v * 128 - 0.5, 128))
        const grain = noise * Math.sin(u * 91_000 + v * 77_000)
        return radiance(direction).map(c => c + grain) as Vec3
      }),
    )

  it('that show a whole surrounding are known by their poles and edges, noise or not', () => {
    expect(looksLikePanorama(panorama())).toBe(true)
    expect(looksLikePanorama(panorama(0.02))).toBe(true)
  })

  it('of a surface that repeats, of a view, or of nothing are none', () => {
    expect(looksLikePanorama(bytes(draw(256, 128, (u, v) => [1, 1 + 0.5 * Math.sin(u * 25.13) * Math.cos(v * 12.57), 1])))).toBe(
      false,
    )
    expect(looksLikePanorama(bytes(draw(256, 128, (u, v) => [u, u, v])))).toBe(false)
    expect(looksLikePanorama(bytes(draw(256, 128, () => [1, 1, 1])))).toBe(false)
    expect(looksLikePanorama(bytes(draw(200, 128, (u, v) => [u, u, v])))).toBe(false)
  })
})

describe('Radiance pictures in XYZ', () => {
  it('come as linear RGB', () => {
    const white = createFloatImage(8, 1, 3)
    for (let x = 0; x < 8; x++) white.data.set([0.95047, 1, 1.08883], x * 3)
    const text = Buffer.from(writeHdr(white)).toString('latin1').replace('32-bit_rle_rgbe', '32-bit_rle_xyze')
    const { data } = parseHdr(Buffer.from(text, 'latin1'))
    for (const v of data.subarray(0, 3)) expect(v).toBeCloseTo(1, 1)
    expect(() => parseHdr(Buffer.from(text.replace('xyze', 'luvc'), 'latin1'))).toThrow(/only RGBE and XYZE/)
  })
})
