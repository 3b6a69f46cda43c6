import { mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { ZipArchive } from 'archiver'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { parseExr, writeExr } from '#core/codecs/exr'
import { parseHdr, writeHdr } from '#core/codecs/hdr'
import { readProfileName } from '#core/codecs/icc'
import { FileError } from '#core/findings/failure'
import { fixGlb } from '#core/geometry/fixes/fix-glb'
import { parseGlb } from '#core/geometry/read-gltf'
import { createRandom, type Random } from '#core/math/random'
import { parseMaterialX } from '#core/targets/materialx'
import { makeModelBytes, makeSunSky, makeSurfaceMaps } from '../../tests/fixtures'
import { unpackArchive } from './archive'
import { decodeByteImage } from './decode-image'

/**
 * Damaged files through every decoder, from one seed: each gives what it holds or a FileError that says what is wrong. Anything else, a
 * hang, or memory out of proportion fails.
 */

const SEED = 4711
const SLOWEST_MS = 10_000
/** A file of a hundred kilobytes may not grow into more than this. */
const MOST_GROWTH_BYTES = 1.2 * 1024 ** 3

let folder: string
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'muscovite-hostile-'))
})
afterAll(() => rm(folder, { recursive: true, force: true }))

/** Cut short, bytes changed, runs overwritten, blocks doubled or left out, lengths blown up. */
function spoil(bytes: Uint8Array, random: Random): Uint8Array {
  const kind = random.index(6)
  const copy = bytes.slice()
  const at = random.index(bytes.length)
  switch (kind) {
    case 0:
      return copy.subarray(0, at)
    case 1:
      for (let k = 0; k < 1 + random.index(20); k++) copy[random.index(copy.length)] = random.index(256)
      return copy
    case 2:
      copy.fill(random.index(2) * 255, at, Math.min(copy.length, at + 1 + random.index(64)))
      return copy
    case 3: {
      const block = copy.subarray(at, at + 1 + random.index(200))
      return Uint8Array.from([...copy.subarray(0, at), ...block, ...copy.subarray(at)])
    }
    case 4:
      return Uint8Array.from([...copy.subarray(0, at), ...copy.subarray(at + 1 + random.index(64))])
    default: {
      // A count near the head, where formats keep sizes, becomes huge.
      const head = random.index(Math.min(copy.length - 4, 200))
      new DataView(copy.buffer).setUint32(head, [0xffffffff, 0x7fffffff, 0x10000000, 0][random.index(4)], random.next() < 0.5)
      return copy
    }
  }
}

async function makeZip(entries: Record<string, string>): Promise<Uint8Array> {
  const archive = new ZipArchive({ zlib: { level: 9 } })
  const chunks: Buffer[] = []
  archive.on('data', chunk => chunks.push(chunk))
  for (const [name, text] of Object.entries(entries)) archive.append(text, { name })
  await archive.finalize()
  return new Uint8Array(Buffer.concat(chunks))
}

async function attack(name: string, whole: Uint8Array, times: number, decode: (bytes: Uint8Array) => unknown): Promise<void> {
  const random = createRandom(SEED)
  let failures = 0
  for (let k = 0; k < times; k++) {
    const bytes = spoil(whole, random)
    const before = process.memoryUsage()
    const started = performance.now()
    try {
      await decode(bytes)
    } catch (error) {
      failures++
      if (!(error instanceof FileError)) throw new Error(`${name}, case ${k}: ${error instanceof Error ? error.stack : error}`)
      expect(error.message.length).toBeGreaterThan(10)
      expect(error.message).not.toMatch(/undefined|\bat \w+ \(|Error:/)
    }
    expect(performance.now() - started, `${name}, case ${k}`).toBeLessThan(SLOWEST_MS)
    const after = process.memoryUsage()
    const growth = after.heapUsed + after.arrayBuffers - before.heapUsed - before.arrayBuffers
    expect(growth, `${name}, case ${k}`).toBeLessThan(MOST_GROWTH_BYTES)
  }
  // Damage of this kind mostly shows.
  expect(failures).toBeGreaterThan(times * 0.1)
}

describe('hostile files', () => {
  const sky = makeSunSky(40, 35, 128)
  const color = makeSurfaceMaps(64).find(m => m.role === 'basecolor')!
  const raw = { width: color.width, height: color.height, channels: color.channels }

  it('OpenEXR', () => attack('exr', writeExr(sky), 600, parseExr), 120_000)
  it('Radiance HDR', () => attack('hdr', writeHdr(sky), 600, parseHdr), 120_000)
  it('binary glTF', async () => attack('glb', await makeModelBytes(), 600, parseGlb), 120_000)
  it(
    'binary glTF that is to be mended',
    async () => attack('glb fix', await makeModelBytes(), 150, b => fixGlb(b, [{ code: 'weldAndClean', parameters: {} }])),
    120_000,
  )
  it.each(['png', 'jpeg', 'webp', 'tiff'] as const)(
    '%s pictures',
    async format => {
      const whole = new Uint8Array(await sharp(color.data, { raw })[format]().toBuffer())
      await attack(format, whole, 250, b => decodeByteImage(b, 256))
    },
    120_000,
  )
  it('MaterialX', async () => {
    const text = `<?xml version="1.0"?><materialx version="1.39"><open_pbr_surface name="s" type="surfaceshader">
      <input name="base_color" type="color3" value="0.4, 0.2, 0.1"/><input name="specular_roughness" type="float" value="0.3"/>
      </open_pbr_surface><surfacematerial name="m" type="material"><input name="surfaceshader" type="surfaceshader" nodename="s"/>
      </surfacematerial></materialx>`
    await attack('mtlx', new TextEncoder().encode(text), 600, b => parseMaterialX(new TextDecoder().decode(b)))
  }, 120_000)
  it('zip archives', async () => {
    let k = 0
    await attack('zip', await makeZip({ 'a/one.txt': 'hello '.repeat(200), 'b.png': 'not a picture' }), 250, async bytes => {
      const path = join(folder, `${k}.zip`)
      await writeFile(path, bytes)
      // An archive whose entries are damaged gives the others, and names those; one that does not open is refused.
      const { failures } = await unpackArchive(path, join(folder, `out-${k++}`))
      if (failures.length > 0) throw new FileError('malformed', failures[0].message)
    })
  }, 120_000)
  it('colour profiles', () => {
    const random = createRandom(SEED)
    const profile = new Uint8Array(400)
    profile.set(new TextEncoder().encode('acsp'), 36)
    for (let k = 0; k < 3000; k++) {
      const bytes = spoil(profile, random)
      expect(() => readProfileName(bytes)).not.toThrow()
    }
  })
})
