import { mkdir, mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { WebIO } from '@gltf-transform/core'
import { ALL_EXTENSIONS } from '@gltf-transform/extensions'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { FileError } from '#core/findings/failure'
import { createRandom } from '#core/math/random'
import { makeModelBytes } from '../../../tests/fixtures'
import { SEED, SLOWEST_MS, spoil } from '../../../tests/hostile'
import { inspectItem } from '../items/inspect-item'
import { collectSources } from '../reading/collect-sources'
import { parseDeliveryIndex } from './delivery-index'
import { parsePaintList } from './paint-list'
import { recognizeDelivery } from './recognize-delivery'

let folder: string
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'muscovite-hostile-'))
})
afterAll(() => rm(folder, { recursive: true, force: true }))

const text = (value: string) => new TextEncoder().encode(value)

const OBJ = `mtllib stool.mtl
o seat
v 0 0.4 0
v 0.4 0.4 0
v 0.4 0.4 0.4
v 0 0.4 0.4
vt 0 0
vt 1 0
vt 1 1
usemtl oak
f 1/1 2/2 3/3
f 1/1 3/3 4/2
`
const MTL = `newmtl oak
Kd 0.5 0.3 0.1
Pr 0.4
map_Kd -s 1 1 1 oak_diffuse.png
`
const CSV = `path,category,tags,width mm
Boards/Oak_basecolor.png,Timber / Boards,"oak, rustic",600
Boards/Ash_basecolor.png,Timber / Boards,ash,800
`
const JSON_LIST = JSON.stringify({
  items: [{ path: 'Boards/Oak_basecolor.png', category: 'Timber', tags: ['oak'], width: '60 cm' }],
})
const PAINTS = `Number;Name;Series;Hex;Sheen
1021;Quay grey;Harbour;#7d8587;matt, satin
1022;Chalk;Harbour;#eceae2;matt
`

/** A whole delivery: loose models, maps, and lists of its content. */
async function makeFiles(): Promise<Record<string, Uint8Array>> {
  const io = new WebIO().registerExtensions(ALL_EXTENSIONS)
  const document = await io.readBinary(await makeModelBytes())
  document.getRoot().listBuffers()[0].setURI('stool.bin')
  const { json, resources } = await io.writeJSON(document)
  const png = await sharp({ create: { width: 32, height: 32, channels: 3, background: '#a63' } })
    .png()
    .toBuffer()
  return {
    'Stool/stool.obj': text(OBJ),
    'Stool/stool.mtl': text(MTL),
    'Stool/oak_diffuse.png': new Uint8Array(png),
    'Chair/chair.gltf': text(JSON.stringify(json)),
    'Chair/stool.bin': resources['stool.bin'],
    'Boards/Oak_basecolor.png': new Uint8Array(png),
    'Boards/Ash_basecolor.png': new Uint8Array(png),
    'content.csv': text(CSV),
    'content.json': text(JSON_LIST),
  }
}

describe('hostile deliveries', () => {
  it('whatever one of its files holds, each ends in an item, left over, or failed with a sentence', async () => {
    const whole = await makeFiles()
    const random = createRandom(SEED)
    const names = Object.keys(whole)
    let refused = 0
    for (let k = 0; k < 120; k++) {
      const root = join(folder, `case-${k}`)
      const hit = names[k % names.length]
      for (const [path, bytes] of Object.entries(whole)) {
        await mkdir(dirname(join(root, path)), { recursive: true })
        await writeFile(join(root, path), path === hit ? spoil(bytes, random) : bytes)
      }
      const started = performance.now()
      const { items, leftOver, failures } = await recognizeDelivery((await collectSources([root])).files)
      const told = [
        ...items.flatMap(i => i.files.map(f => f.file.path)),
        ...leftOver.map(l => l.path),
        ...failures.map(f => f.path),
      ]
      const missing = names.filter(name => !told.some(path => path.endsWith(name)))
      expect(missing, `case ${k}, ${hit}`).toEqual([])
      for (const item of items) {
        try {
          await inspectItem(item, item.category)
        } catch (error) {
          if (!(error instanceof FileError)) throw new Error(`case ${k}, ${hit}: ${error instanceof Error ? error.stack : error}`)
          expect(error.message).not.toMatch(/undefined|\bat \w+ \(|Error:/)
          refused++
        }
      }
      refused += failures.length
      expect(performance.now() - started, `case ${k}, ${hit}`).toBeLessThan(SLOWEST_MS)
      await rm(root, { recursive: true })
    }
    expect(refused).toBeGreaterThan(10)
  }, 300_000)

  it.each([
    ['content.csv', CSV, parseDeliveryIndex],
    ['content.json', JSON_LIST, parseDeliveryIndex],
    ['paints.csv', PAINTS, parsePaintList],
  ] as const)(
    '%s, a thousand times spoilt, is read or it is not; it never breaks off',
    (path, whole, parse) => {
      const random = createRandom(SEED)
      let read = 0
      for (let k = 0; k < 1000; k++) {
        const started = performance.now()
        if (parse(path, new TextDecoder().decode(spoil(text(whole), random))) !== null) read++
        expect(performance.now() - started).toBeLessThan(1000)
      }
      expect(read).toBeGreaterThan(40)
    },
    120_000,
  )
})
