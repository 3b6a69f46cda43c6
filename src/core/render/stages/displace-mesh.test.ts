import { describe, expect, it } from 'vitest'
import type { Mesh } from '../../geometry/mesh'
import { createLathe, createSheet } from '../../geometry/shapes'
import { createMaterial } from '../../material/open-pbr'
import { createCamera } from '../film/camera'
import { renderPreview } from '../pictures/preview'
import { HOUSE_RIGS } from '../rigs/house-rigs'
import { qualityOf } from '../rigs/rig'
import { createMipTexture } from '../scene/texture'
import { displaceMesh, type Eye } from './displace-mesh'
import type { Relief } from './relief-heights'

const SIDE = 64

/** Heights by a function of (u, v) in 0..1, over a tile of 0.2 m. */
function reliefOf(height: (u: number, v: number) => number, reliefM = 0.004): Relief {
  const data = Uint8Array.from({ length: SIDE * SIDE }, (_, i) =>
    Math.round(255 * height(((i % SIDE) + 0.5) / SIDE, (Math.floor(i / SIDE) + 0.5) / SIDE)),
  )
  const heights = createMipTexture({ width: SIDE, height: SIDE, channels: 1, data }, 'linear')
  return { heights, channel: 0, tileSizeM: [0.2, 0.2], reliefM }
}

/** 0.4 m square, level, looking up. */
const sheet = (): Mesh =>
  createSheet(
    2,
    2,
    (s, t) => [s * 0.4 - 0.2, 0, 0.2 - t * 0.4],
    (s, t) => [s * 0.4, t * 0.4],
  )

const eyeAt = (distance: number, mostTriangles = 200_000): Eye => ({
  camera: createCamera([0, distance, 0.0001], [0, 0, 0], 50, 4 / 3),
  heightPx: 288,
  mostTriangles,
})

const groove = (u: number): number => (Math.abs(u - 0.5) < 0.06 ? 0 : 1)
const triangles = (mesh: Mesh): number => mesh.indices.length / 3

/** How often each edge is used, by the vertices at its ends. */
function usesOfEdges({ indices }: Mesh): Map<string, number> {
  const uses = new Map<string, number>()
  for (let i = 0; i < indices.length; i += 3)
    for (let k = 0; k < 3; k++) {
      const ends = [indices[i + k], indices[i + ((k + 1) % 3)]].sort((a, b) => a - b).join()
      uses.set(ends, (uses.get(ends) ?? 0) + 1)
    }
  return uses
}

/** Mean light of the picture's pixels where it is lit at all. */
function meanLight(relief: Relief | null): number {
  const material = createMaterial('plaster', { baseColor: [0.8, 0.8, 0.8], specularWeight: 0 }, { tileSizeM: [0.2, 0.2] })
  const rig = HOUSE_RIGS['material-close-up']
  const quality = { ...qualityOf(rig, 'draft'), width: 128, maxSamples: 8 }
  const { image } = renderPreview({ kind: 'material', material, images: [], relief }, { rig, quality, seed: 1 })!
  return image.data.reduce((sum, v) => sum + v, 0) / image.data.length
}

describe('a relief as geometry', () => {
  it('shades itself: of a surface full of narrow joints less light comes back than of a smooth one', () => {
    const joints = reliefOf(u => (Math.floor(u * 40) % 2 === 0 ? 0 : 1), 0.0024)
    const [jointed, level, smooth] = [meanLight(joints), meanLight(reliefOf(() => 1, 0.0024)), meanLight(null)]
    expect(jointed).toBeLessThan(0.99 * smooth)
    expect(level).toBeCloseTo(smooth, 3)
  })

  it('lies as deep as its heights say, white at the surface', () => {
    const { positions, uvs } = displaceMesh(sheet(), reliefOf(groove), eyeAt(0.6))
    let [inGroove, beside] = [0, 0]
    for (let i = 0; i < positions.length / 3; i++) {
      const u = (uvs[i * 2] / 0.2) % 1
      const depth = positions[i * 3 + 1]
      if (Math.abs(u - 0.5) < 0.04) {
        expect(depth).toBeCloseTo(-0.004, 5)
        inGroove++
      } else if (Math.abs(u - 0.5) > 0.1) {
        expect(depth).toBeCloseTo(0, 5)
        beside++
      } else expect(depth).toBeLessThan(1e-6)
    }
    expect(inGroove).toBeGreaterThan(50)
    expect(beside).toBeGreaterThan(50)
  })

  it('has no gaps: each edge within has two sides', () => {
    const mesh = displaceMesh(
      sheet(),
      reliefOf((u, v) => 0.5 + 0.25 * Math.sin(u * 40) + 0.25 * Math.sin(v * 23)),
      eyeAt(0.6),
    )
    const { positions } = mesh
    const isOnBorder = (i: number) => Math.abs(positions[i * 3]) > 0.1999 || Math.abs(positions[i * 3 + 2]) > 0.1999
    for (const [ends, uses] of usesOfEdges(mesh)) {
      const [a, b] = ends.split(',').map(Number)
      if (uses !== 2) expect([uses, isOnBorder(a), isOnBorder(b)]).toEqual([1, true, true])
    }
  })

  it('is fine where heights change, coarse where they do not, and finer the nearer it is seen', () => {
    const flat = displaceMesh(
      sheet(),
      reliefOf(() => 1),
      eyeAt(0.6),
    )
    const grooved = displaceMesh(sheet(), reliefOf(groove), eyeAt(0.6))
    const far = displaceMesh(sheet(), reliefOf(groove), eyeAt(3))
    expect(triangles(grooved)).toBeGreaterThan(1.2 * triangles(flat))
    expect(triangles(grooved)).toBeGreaterThan(3 * triangles(far))
  })

  it('stays within what it may be', () => {
    const noise = reliefOf((u, v) => (Math.sin(u * 9001 + v * 7919) * 43758.5) % 1 ** 2)
    for (const most of [500, 5000, 50_000])
      expect(triangles(displaceMesh(sheet(), noise, eyeAt(0.3, most)))).toBeLessThanOrEqual(most)
  })

  it('closes over a seam: both of its sides move together', () => {
    const cup = createLathe(
      [
        [0.05, 0],
        [0.05, 0.1],
      ],
      32,
    )
    // One turn is no whole number of tiles, so that heights differ on both sides of the seam.
    const { positions } = displaceMesh(
      cup,
      reliefOf(u => u),
      { ...eyeAt(0.6), camera: createCamera([0, 0.05, 0.6], [0, 0.05, 0], 85, 4 / 3) },
    )
    const columns = cup.positions.length / 3 / 2
    for (const row of [0, 1])
      for (let c = 0; c < 3; c++)
        expect(positions[row * columns * 3 + c]).toBeCloseTo(positions[(row * columns + columns - 1) * 3 + c], 6)
  })

  it('without a height is the mesh itself', () => {
    const mesh = sheet()
    expect(displaceMesh(mesh, reliefOf(groove, 0), eyeAt(1))).toBe(mesh)
  })
})
