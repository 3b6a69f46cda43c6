import { existsSync } from 'node:fs'
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import type { ByteImage } from '#core/image/image'
import { EMPTY_SCENE, type Scene, shotSchema, skySchema } from '#core/mock-up/scene/scene'
import { renderMockUp } from './render-mock-up'

let folder = ''
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'muscovite-render-'))
})
afterAll(() => rm(folder, { recursive: true, force: true }))

/** An empty room under a clear sky: noisy enough to take several passes. */
const scene: Scene = {
  ...EMPTY_SCENE,
  stage: {
    kind: 'room',
    materials: {},
    widthM: 4,
    depthM: 4,
    heightM: 2.8,
    openings: [{ wall: 'north', leftM: 1, sillM: 0.8, widthM: 2, heightM: 1.4 }],
  },
  skies: {
    s: skySchema.parse({
      item: null,
      clear: { latitudeDeg: 48, longitudeDeg: 11, at: '2026-06-21T15:00:00.000Z' },
      name: 'clear',
    }),
  },
  shots: {
    a: shotSchema.parse({
      name: 'a',
      place: 0,
      position: [0, 1.5, 1.8],
      target: [0, 1.2, -2],
      focalMm: 24,
      aspect: 1.6,
      sky: 's',
    }),
  },
}
const request = { scene, shot: 'a', quality: 'draft' as const, seed: 5, sources: {}, longerPx: 72 }

/** Correlation of two pictures' values, −1..1. */
function likeness(a: ByteImage, b: ByteImage): number {
  const meanOf = (data: ArrayLike<number>) => Array.from(data).reduce((sum, v) => sum + v, 0) / data.length
  const [meanA, meanB] = [meanOf(a.data), meanOf(b.data)]
  let [both, ownA, ownB] = [0, 0, 0]
  for (let k = 0; k < a.data.length; k++) {
    const [da, db] = [a.data[k] - meanA, b.data[k] - meanB]
    both += da * db
    ownA += da * da
    ownB += db * db
  }
  return both / Math.sqrt(ownA * ownB)
}

describe('a picture of a mock-up', () => {
  it('broken off and gone on with is the one that was never broken off, and what was traced is not traced again', async () => {
    let whole = 0
    const { linear } = (await renderMockUp(request, () => {
      whole++
      return true
    }))!
    const keepIn = join(folder, 'a.tiles')
    let steps = 0
    const half = await renderMockUp({ ...request, keepIn }, () => ++steps < whole / 2, { keepEveryMs: 0 })
    expect(half).toBeNull()
    expect(existsSync(keepIn)).toBe(true)
    let more = 0
    let firstShare = 0
    const { linear: resumed } = (await renderMockUp({ ...request, keepIn }, share => {
      firstShare ||= share
      more++
      return true
    }))!
    expect(resumed.data).toEqual(linear.data)
    expect(steps + more).toBe(whole)
    expect(firstShare).toBeGreaterThan(0.1)
  })

  it('is shown while it is made, whole from the first, and is no other picture for it', async () => {
    const shown: ByteImage[] = []
    let doneAtFirst = -1
    const interim = (await renderMockUp(
      request,
      share => {
        if (doneAtFirst < 0) doneAtFirst = share
        return true
      },
      { onInterim: async picture => void shown.push(picture) },
    ))!
    const [first] = shown
    expect([first.width, first.height]).toEqual([72, 45])
    // Before anything of it is done; and rough as it is, its light and dark lie where they do in the end.
    expect(doneAtFirst).toBeLessThan(0.2)
    const { linear, picture } = (await renderMockUp(request))!
    expect(interim.linear.data).toEqual(linear.data)
    expect(likeness(first, picture)).toBeGreaterThan(0.5)
  })

  it('gone on with shows what there was, and not a sketch again', async () => {
    const keepIn = join(folder, 'shown.tiles')
    let steps = 0
    await renderMockUp({ ...request, keepIn }, () => ++steps < 40, { keepEveryMs: 0 })
    const shown: ByteImage[] = []
    const { picture } = (await renderMockUp({ ...request, keepIn }, undefined, { onInterim: async p => void shown.push(p) }))!
    const fresh: ByteImage[] = []
    await renderMockUp(request, () => false, { onInterim: async p => void fresh.push(p) })
    expect(likeness(shown[0], picture)).toBeGreaterThan(likeness(fresh[0], picture))
  })

  it('begins anew where what was kept is of another picture, or does not read', async () => {
    const keepIn = join(folder, 'b.tiles')
    await renderMockUp({ ...request, longerPx: 40, keepIn }, () => false, { keepEveryMs: 0 })
    const kept = await readFile(keepIn)
    const { linear } = (await renderMockUp({ ...request, keepIn }))!
    expect(linear.width).toBe(72)
    await writeFile(keepIn, kept.subarray(0, kept.length / 2))
    expect((await renderMockUp({ ...request, keepIn }))!.linear.data).toEqual(linear.data)
    // Without a place to keep it in it is made all the same.
    const nowhere = join(folder, 'not there', 'c.tiles')
    expect((await renderMockUp({ ...request, keepIn: nowhere }, () => true, { keepEveryMs: 0 }))!.linear.data).toEqual(
      linear.data,
    )
  })
})
