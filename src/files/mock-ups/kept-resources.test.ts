import { mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import { afterAll, afterEach, beforeAll, describe, expect, it, vi } from 'vitest'
import { EMPTY_SCENE, type ItemRef, sceneSchema, shotSchema } from '#core/mock-up/scene/scene'
import { createMipTexture } from '#core/render/scene/texture'
import type { ItemSource } from '../items/item-source'
import { KeptResources } from './kept-resources'
import { renderMockUp } from './render-mock-up'

const SIZES = { materialPx: 32, modelPx: 32, skyPx: 64 }
let folder: string
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'muscovite-kept-'))
})
afterAll(() => rm(folder, { recursive: true, force: true }))
afterEach(() => {
  vi.useRealTimers()
})

async function material(name: string, background: string): Promise<ItemSource> {
  const diskPath = join(folder, `${name}.png`)
  const picture = sharp({ create: { width: 64, height: 64, channels: 3, background } })
  await writeFile(diskPath, await picture.png().toBuffer())
  const file = { path: `${name}.png`, diskPath } as ItemSource['files'][number]['file']
  return {
    kind: 'material',
    name,
    widthMm: 500,
    constants: {},
    files: [{ role: 'baseColor', file, byContentOnly: false, handednessHint: null }],
  }
}

describe('what a picture of a mock-up was made of', () => {
  it('is there for the next one: only what is new is opened, and what is not shown any more is let go', async () => {
    const kept = new KeptResources(60_000)
    const [oak, clay] = [await material('oak', '#8a6a48'), await material('clay', '#aa7755')]
    const first = await kept.open({ oak, clay }, SIZES)
    const oakThen = first.resources.materials.get('oak')!
    const clayThen = first.resources.materials.get('clay')!
    for (const { images } of [oakThen, clayThen]) first.kept.mips.set(images[0], createMipTexture(images[0], 'srgb'))
    const lime = await material('lime', '#dddddd')
    const second = await kept.open({ oak, lime }, SIZES)
    expect(second.resources.materials.get('oak')).toBe(oakThen)
    expect([...second.resources.materials.keys()].sort()).toEqual(['lime', 'oak'])
    expect([...second.kept.mips.keys()]).toEqual([oakThen.images[0]])
    // What the picture before shows stays whole while it is looked at.
    expect([...first.resources.materials.keys()].sort()).toEqual(['clay', 'oak'])
    kept.letGo()
  })

  it('is opened anew at another size, from other files, and where it did not read before', async () => {
    const kept = new KeptResources(60_000)
    const oak = await material('oak', '#8a6a48')
    const there = await kept.open({ oak }, SIZES)
    expect(there.resources.materials.get('oak')!.images[0].width).toBe(32)
    const larger = await kept.open({ oak }, { ...SIZES, materialPx: 64 })
    expect(larger.resources.materials.get('oak')!.images[0].width).toBe(64)
    const altered = await kept.open({ oak: { ...oak, widthMm: 900 } }, { ...SIZES, materialPx: 64 })
    expect(altered.resources.materials.get('oak')).not.toBe(larger.resources.materials.get('oak'))
    const diskPath = join(folder, 'broken.glb')
    await writeFile(diskPath, 'no model')
    const file = { path: 'broken.glb', diskPath } as ItemSource['files'][number]['file']
    const broken: ItemSource = { ...oak, kind: 'model', files: [{ ...oak.files[0], role: 'model', file }] }
    for (let k = 0; k < 2; k++) expect(Object.keys((await kept.open({ oak, broken }, SIZES)).failures)).toEqual(['broken'])
    kept.letGo()
  })

  it('is let go after a while without another picture', async () => {
    vi.useFakeTimers({ toFake: ['setTimeout', 'clearTimeout'] })
    const kept = new KeptResources(1000)
    const oak = await material('oak', '#8a6a48')
    const first = await kept.open({ oak }, SIZES)
    // However long the picture takes.
    vi.advanceTimersByTime(10_000)
    kept.letGoLater()
    vi.advanceTimersByTime(900)
    const second = await kept.open({ oak }, SIZES)
    expect(second.resources.materials.get('oak')).toBe(first.resources.materials.get('oak'))
    kept.letGoLater()
    vi.advanceTimersByTime(1100)
    const third = await kept.open({ oak }, SIZES)
    expect(third.resources.materials.get('oak')).not.toBe(first.resources.materials.get('oak'))
    kept.letGo()
  })

  it('makes the same picture as what was opened for it', async () => {
    const ref: ItemRef = { code: 'TIM-0001', version: 1, inputKey: 'a'.repeat(64) }
    const scene = sceneSchema.parse({
      ...EMPTY_SCENE,
      stage: { kind: 'room', widthM: 4, depthM: 4, heightM: 2.8, openings: [], materials: { floor: { material: ref } } },
      shots: {
        a: shotSchema.parse({ name: 'a', place: 0, position: [0, 1.5, 1.8], target: [0, 0.5, -2], focalMm: 24, aspect: 1.6 }),
      },
    })
    const sources = { [ref.inputKey]: await material('oak', '#8a6a48') }
    const request = { scene, shot: 'a', quality: 'draft' as const, seed: 3, sources, longerPx: 48 }
    const kept = new KeptResources(60_000)
    const alone = (await renderMockUp(request))!
    await renderMockUp(request, undefined, { kept })
    const again = (await renderMockUp(request, undefined, { kept }))!
    expect(again.linear).toEqual(alone.linear)
    kept.letGo()
  })
})
