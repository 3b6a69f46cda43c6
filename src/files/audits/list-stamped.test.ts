import { mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { sourceFileAt } from '../reading/source-file'
import { listStamped } from './list-stamped'

let folder: string
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'muscovite-stamped-'))
})
afterAll(() => rm(folder, { recursive: true, force: true }))

const put = async (name: string, content: string | Uint8Array) => {
  await writeFile(join(folder, name), content)
  return sourceFileAt(join(folder, name), name)
}
const stamp = (code: string, version: number) => ({ extras: { muscovite: { code, version } } })

describe('a scene', () => {
  it('says by its stamps what it is made of, each version once, and which of its files are missing', async () => {
    const main = await put(
      'scene.gltf',
      JSON.stringify({
        asset: { version: '2.0' },
        scene: 0,
        scenes: [{ nodes: [0, 1] }],
        nodes: [{ name: 'a', ...stamp('TIM-0001', 2) }, { name: 'b', ...stamp('CHR-0001', 1) }, { name: 'c' }],
        materials: [
          { name: 'oak', pbrMetallicRoughness: { baseColorTexture: { index: 0 } }, ...stamp('TIM-0001', 2) },
          { name: 'plain', extras: { muscovite: { code: 7 } } },
        ],
        textures: [{ source: 0 }, { source: 1 }],
        images: [{ uri: 'textures/oak.png' }, { uri: 'there.png' }],
      }),
    )
    const there = await put(
      'there.png',
      await sharp({ create: { width: 2, height: 2, channels: 3, background: '#888' } })
        .png()
        .toBuffer(),
    )
    expect(await listStamped([main, there])).toEqual({
      stamps: [
        { code: 'CHR-0001', version: 1 },
        { code: 'TIM-0001', version: 2 },
      ],
      missing: ['textures/oak.png'],
    })
  })

  it('that is none is refused in a sentence', async () => {
    await expect(listStamped([await put('notes.txt', 'no scene')])).rejects.toThrow('no scene among these files')
  })
})
