import { mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { ZipArchive } from 'archiver'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { parseExr } from '#core/codecs/exr'
import { parseHdr, writeHdr } from '#core/codecs/hdr'
import { readProfileName } from '#core/codecs/icc'
import { writeExr } from '#core/codecs/write-exr'
import { analyseEnvironmentRows } from '#core/environment/analyse-environment'
import { FileError } from '#core/findings/failure'
import { fixGlb } from '#core/geometry/fixes/fix-glb'
import { parseGlb } from '#core/geometry/read-gltf'
import { createRandom } from '#core/math/random'
import { parseMaterialX } from '#core/targets/materialx/read-materialx'
import { makeModelBytes, makeSunSky, makeSurfaceMaps } from '../../../tests/fixtures'
import { attack, SEED, spoil } from '../../../tests/hostile'
import { unpackArchive } from './archive'
import { readEnvironmentRows } from './decode-environment'
import { decodeByteImage } from './decode-image'

/**
 * Damaged files through every decoder, from one seed: each gives what it holds or a FileError that says what is wrong. Anything else, a
 * hang, or memory out of proportion fails.
 */

let folder: string
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'muscovite-hostile-'))
})
afterAll(() => rm(folder, { recursive: true, force: true }))

async function makeZip(entries: Record<string, string>): Promise<Uint8Array> {
  const archive = new ZipArchive({ zlib: { level: 9 } })
  const chunks: Buffer[] = []
  archive.on('data', chunk => chunks.push(chunk))
  for (const [name, text] of Object.entries(entries)) archive.append(text, { name })
  await archive.finalize()
  return new Uint8Array(Buffer.concat(chunks))
}

describe('hostile files', () => {
  const sky = makeSunSky(40, 35, 128)
  const color = makeSurfaceMaps(64).find(m => m.role === 'basecolor')!
  const raw = { width: color.width, height: color.height, channels: color.channels }

  it('OpenEXR', () => attack('exr', writeExr(sky), 600, parseExr), 120_000)
  it('Radiance HDR', () => attack('hdr', writeHdr(sky), 600, parseHdr), 120_000)
  it.each(['exr', 'hdr'] as const)(
    '%s read row by row',
    async type => {
      const path = join(folder, `rows.${type}`)
      await attack(`${type} rows`, type === 'exr' ? writeExr(sky) : writeHdr(sky), 300, async bytes => {
        await writeFile(path, bytes)
        readEnvironmentRows(path, type, rows => analyseEnvironmentRows(rows))
      })
    },
    240_000,
  )
  it('binary glTF', async () => attack('glb', await makeModelBytes(), 600, parseGlb), 120_000)
  it(
    'binary glTF that is to be fixed',
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
  })
  it('zip archives', async () => {
    let k = 0
    await attack('zip', await makeZip({ 'a/one.txt': 'hello '.repeat(200), 'b.png': 'not a picture' }), 250, async bytes => {
      const path = join(folder, `${k}.zip`)
      await writeFile(path, bytes)
      // An archive whose entries are damaged gives the others, and names those; one that does not open is refused.
      const { failures } = await unpackArchive(path, join(folder, `out-${k++}`))
      if (failures.length > 0) throw new FileError('malformed', failures[0].message)
    })
  })
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
