import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { sourceFileAt } from '../reading/source-file'
import type { ItemSource } from './item-source'
import { loadItem } from './load-item'
import { loadRelief } from './load-relief'

const SIDE = 128
const WIDTH_M = 0.5
const RELIEF_M = 0.006

let folder: string
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'muscovite-relief-'))
})
afterAll(() => rm(folder, { recursive: true, force: true }))

const waves = (x: number, y: number): number =>
  0.5 + 0.25 * Math.sin((x / SIDE) * 8 * Math.PI) + 0.25 * Math.cos((y / SIDE) * 6 * Math.PI)
const others = (x: number, y: number): number => 0.5 + 0.4 * Math.sin(((x + 2 * y) / SIDE) * 10 * Math.PI)

/** Of a surface as high as `RELIEF_M` whose heights are `height`; y up the picture. */
function normalAt(height: typeof waves, x: number, y: number): number[] {
  const perTexel = (RELIEF_M * SIDE) / WIDTH_M / 2
  const n = [(height(x - 1, y) - height(x + 1, y)) * perTexel, (height(x, y + 1) - height(x, y - 1)) * perTexel, 1]
  const length = Math.hypot(...n)
  return n.map(v => Math.round(((v / length + 1) / 2) * 255))
}

async function write(name: string, channels: 1 | 3, texel: (x: number, y: number) => number[]): Promise<string> {
  const data = Array.from({ length: SIDE * SIDE }, (_, i) => texel(i % SIDE, Math.floor(i / SIDE))).flat()
  const path = join(folder, name)
  await sharp(Uint8Array.from(data), { raw: { width: SIDE, height: SIDE, channels } })
    .png()
    .toFile(path)
  return path
}

async function reliefOfMaps(paths: Record<string, string>) {
  const files = await Promise.all(
    Object.entries(paths).map(async ([role, path]) => ({
      file: await sourceFileAt(path, path.split('/').pop()!),
      role,
      byContentOnly: false,
      handednessHint: role === 'normal' ? ('openGl' as const) : null,
    })),
  )
  const source: ItemSource = { kind: 'material', name: 'Waves', files, widthMm: WIDTH_M * 1000, constants: {} }
  const { loaded } = await loadItem(source, 'preview', 1024)
  if (loaded.kind !== 'material') throw new Error('no material')
  return loadRelief(source, loaded.material, loaded.images, 1024)
}

const gray = (height: typeof waves) => (x: number, y: number) => [Math.round(height(x, y) * 255)]

describe('how high the heights of a material are', () => {
  it('is as its normal map has it', async () => {
    const height = await write('height.png', 1, gray(waves))
    const normal = await write('normal.png', 3, (x, y) => normalAt(waves, x, y))
    const relief = await reliefOfMaps({ height, normal })
    expect(relief!.reliefM / RELIEF_M).toBeGreaterThan(0.93)
    expect(relief!.reliefM / RELIEF_M).toBeLessThan(1.07)
    expect(relief!.tileSizeM).toEqual([WIDTH_M, WIDTH_M])
  })

  it('is not known where the two tell of different surfaces, and there is none without heights', async () => {
    const height = await write('other-height.png', 1, gray(others))
    const normal = await write('normal-2.png', 3, (x, y) => normalAt(waves, x, y))
    expect(await reliefOfMaps({ height, normal })).toBeNull()
    expect(await reliefOfMaps({ normal })).toBeNull()
  })

  it('is a hundredth of the repeat where heights stand alone', async () => {
    const height = await write('alone.png', 1, gray(waves))
    expect((await reliefOfMaps({ height }))!.reliefM).toBeCloseTo(WIDTH_M / 100, 9)
  })
})
