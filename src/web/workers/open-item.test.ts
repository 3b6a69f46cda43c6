import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { writeHdr } from '#core/codecs/hdr'
import { writeExr } from '#core/codecs/write-exr'
import { createBox } from '#core/geometry/shapes'
import { createFloatImage } from '#core/image/image'
import { writeGlb } from '#demo/model-file'
import { makeFile, makeMockUpItem } from '../testing/mock-up-item'
import { openMockUpItem } from './open-item'

const SIZES = { mapPx: 512, skyPx: 1024 } as const
const toImage = async (blob: Blob) => ({ width: 40, height: 20, bytes: blob.size })

let asked: string[]
let [open, mostOpen] = [0, 0]
let answers: Map<RegExp, () => Response>

beforeEach(() => {
  asked = []
  ;[open, mostOpen] = [0, 0]
  answers = new Map()
  vi.stubGlobal('fetch', async (url: string) => {
    asked.push(url)
    mostOpen = Math.max(mostOpen, ++open)
    await new Promise(resolve => setTimeout(resolve, 2))
    open--
    for (const [address, answer] of answers) if (address.test(url)) return answer()
    return new Response('picture')
  })
})
afterEach(() => vi.unstubAllGlobals())

describe('an item of a mock-up, opened in a page', () => {
  it('asks for its maps no larger than they are shown, and for none that is not drawn', async () => {
    const roles = ['baseColor', 'normal', 'roughness', 'height', 'ambientOcclusion', 'definition']
    const item = makeMockUpItem({ key: 'oak', widthMm: 600, handedness: 'directX', files: roles.map((r, n) => makeFile(r, n)) })
    const opened = await openMockUpItem(item, toImage, SIZES)
    expect(asked).toEqual([0, 1, 2].map(n => `/api/versions/7/files/${n}/screen?px=512`))
    if (opened?.kind !== 'material') throw new Error('no material')
    const { material, images } = opened.look
    expect(images).toHaveLength(3)
    // A repeat is as high as its picture's proportions have it.
    expect(material.tileSizeM).toEqual([0.6, 0.3])
    expect(material.textures.geometryNormal).toMatchObject({ image: 1, handedness: 'directX' })
  })

  it('draws heights where no normal map says the same better', async () => {
    const item = makeMockUpItem({ key: 'brick', files: [makeFile('baseColor', 0), makeFile('height', 1)] })
    const opened = await openMockUpItem(item, toImage, SIZES)
    expect(opened?.kind === 'material' && opened.look.material.textures.displacement).toMatchObject({ image: 1 })
  })

  it('takes one file after the other: the page needs some of the lines to its server', async () => {
    const items = ['a', 'b', 'c'].map(key => makeMockUpItem({ key, files: [makeFile('baseColor', 0), makeFile('roughness', 1)] }))
    await Promise.all(items.map(item => openMockUpItem(item, toImage, SIZES)))
    expect([asked.length, mostOpen]).toEqual([6, 1])
  })

  it('does not open where a file does not come, and the next one opens all the same', async () => {
    answers.set(/files\/0/, () => new Response('no', { status: 400 }))
    const broken = makeMockUpItem({ key: 'broken', files: [makeFile('baseColor', 0)] })
    const whole = makeMockUpItem({ key: 'whole', files: [makeFile('baseColor', 1)] })
    const both = await Promise.allSettled([broken, whole].map(item => openMockUpItem(item, toImage, SIZES)))
    expect(both.map(r => r.status)).toEqual(['rejected', 'fulfilled'])
  })

  it.each([
    ['image/x-exr', writeExr],
    ['image/vnd.radiance', writeHdr],
  ] as const)('reads a sky as it comes, %s', async (mediaType, write) => {
    const sky = createFloatImage(16, 8, 3)
    sky.data.fill(0.5)
    const bytes = write(sky) as Uint8Array<ArrayBuffer>
    answers.set(/screen\?px=1024/, () => new Response(bytes, { headers: { 'Content-Type': mediaType } }))
    const item = makeMockUpItem({ key: 'sky', kind: 'environment', files: [makeFile('environment', 3, 'image/x-exr')] })
    const opened = await openMockUpItem(item, toImage, SIZES)
    expect(opened?.kind === 'sky' && [opened.map.width, opened.map.height, opened.map.data[0]]).toEqual([16, 8, 0.5])
  })

  it('of a model is asked for with small pictures, and has them with its parts', async () => {
    const parts = [
      { name: 'seat', mesh: createBox(0.4, 0.1, 0.4), finish: { name: 'paint', color: [0.2, 0.1, 0.4], roughness: 0.3 } },
    ]
    const glb = await writeGlb({ folder: '', stem: 'Stool', parts: parts as Parameters<typeof writeGlb>[0]['parts'] })
    answers.set(/files\/4\/screen\?px=512/, () => new Response(glb as Uint8Array<ArrayBuffer>))
    const item = makeMockUpItem({ key: 'stool', kind: 'model', files: [makeFile('model', 4, 'model/gltf-binary')] })
    const opened = await openMockUpItem(item, toImage, SIZES)
    expect(asked).toEqual(['/api/versions/7/files/4/screen?px=512'])
    expect(opened?.kind === 'model' && opened.parts.map(p => [p.name, p.material.name])).toEqual([['seat', 'paint']])
    // The model that a mock-up stands in is of no version, and comes as it is.
    answers.set(/stage/, () => new Response(glb as Uint8Array<ArrayBuffer>))
    const url = '/api/mock-ups/3/stage?key=abc'
    const stage = makeMockUpItem({ key: 'stage', kind: 'model', files: [{ ...makeFile('model', 0, 'model/gltf-binary'), url }] })
    expect((await openMockUpItem(stage, toImage, SIZES))?.kind).toBe('model')
    expect(asked.at(-1)).toBe(url)
  })

  it('is nothing where it has none of the files of its kind', async () => {
    for (const kind of ['environment', 'light', 'model'] as const)
      expect(await openMockUpItem(makeMockUpItem({ key: kind, kind }), toImage, SIZES)).toBeNull()
    expect(asked).toEqual([])
  })
})
