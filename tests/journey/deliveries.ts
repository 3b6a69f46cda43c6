import { createWriteStream } from 'node:fs'
import { readFile, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { finished } from 'node:stream/promises'
import { ZipArchive } from 'archiver'
import { encodeMap } from '../../src/demo/make-file'
import { makeSurfaceMaps, writeDelivery } from '../fixtures'

/** A zip of the delivery, with one entry that wants out of its folder. */
export async function zipDelivery(folder: string): Promise<string> {
  const root = join(folder, 'delivery')
  const paths = await writeDelivery(root)
  const zipPath = join(folder, 'Spring.zip')
  const archive = new ZipArchive()
  const output = createWriteStream(zipPath)
  archive.pipe(output)
  for (const path of paths.filter(p => !p.includes('Other_Test_Sky'))) archive.file(join(root, path), { name: path })
  archive.append('no', { name: 'xx/xx/evil.txt' })
  await archive.finalize()
  await finished(output)
  const bytes = (await readFile(zipPath)).toString('latin1').replaceAll('xx/xx/evil.txt', '../../evil.txt')
  await writeFile(zipPath, Buffer.from(bytes, 'latin1'))
  return zipPath
}

/** What is known already, and a set with its green the other way up and its gloss sold as roughness. */
export async function zipFaulty(folder: string): Promise<string> {
  const zipPath = join(folder, 'Second.zip')
  const archive = new ZipArchive()
  const output = createWriteStream(zipPath)
  archive.pipe(output)
  for (const map of makeSurfaceMaps()) {
    const png = (data: Uint8Array | Uint16Array) => encodeMap({ ...map, data } as typeof map)
    archive.append(await png(map.data), { name: `Timber/Oak_Test/Oak_Test_${map.role}.png` })
    const wrong =
      map.role === 'normal'
        ? Uint8Array.from(map.data, (v, i) => (i % 3 === 1 ? 255 - v : v))
        : map.role === 'basecolor'
          ? Uint8Array.from(map.data, (v, i) => (i % 3 === 2 ? Math.min(255, v * 2) : 255 - v))
          : map.data
    archive.append(await png(wrong), { name: `Timber/Larch_Grey/Larch_Grey_${map.role}.png` })
  }
  await archive.finalize()
  await finished(output)
  return zipPath
}
