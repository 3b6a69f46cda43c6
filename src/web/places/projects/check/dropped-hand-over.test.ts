import { createHash } from 'node:crypto'
import { zipSync } from 'fflate'
import { describe, expect, it } from 'vitest'
import type { ExportManifest } from '#shared/contracts/hand-over.contract'
import { compareFiles, readDroppedHandOver } from './dropped-hand-over'
import { startZip } from './zips'

const FILES = { 'TIM/oak.mtlx': 'oak', 'TIM/textures/oak.png': 'picture', 'CHR/chair.glb': 'chair' }
const sha = (text: string) => createHash('sha256').update(text).digest('hex')
const fileOf = (path: string) => {
  const text = FILES[path as keyof typeof FILES]
  return { path, sha256: sha(text), bytes: text.length }
}
const itemOf = (code: string, paths: string[]) => ({
  ...{ code, name: code, kind: 'material', version: 1, category: '', maker: '', licence: '', target: '', widthMm: null },
  ...{ tiling: 'repeat' as const, notes: [], files: paths.map(fileOf) },
})
const manifest: ExportManifest = {
  project: { code: 'FERRY', title: 'Ferry hall' },
  source: { projectId: 1, exportId: 2 },
  exportedAt: '2026-11-28T09:00:00.000Z',
  maxSizePx: null,
  items: [itemOf('TIM-0001', ['TIM/oak.mtlx', 'TIM/textures/oak.png']), itemOf('CHR-0001', ['CHR/chair.glb'])],
  failures: [],
}
const drop = (files: Record<string, string>) =>
  Object.entries(files).map(([path, text]) => ({ path, file: new File([text], path.split('/').at(-1)!) }))
const hash = async (file: Blob) => sha(await file.text())

describe('a dropped hand-over', () => {
  it('is compared file by file, wherever its folder lies', async () => {
    const found = await readDroppedHandOver(
      drop({
        'desk/FERRY/manifest.json': JSON.stringify(manifest),
        'desk/FERRY/TIM/oak.mtlx': 'oak',
        'desk/FERRY/CHR/chair.glb': 'bench',
        'desk/other.txt': 'notes',
      }),
    )
    expect([...found.files!.keys()]).toEqual(['TIM/oak.mtlx', 'CHR/chair.glb'])
    const shares: number[] = []
    const checked = await compareFiles(found.manifest, found.files!, hash, share => shares.push(share))
    expect(checked.map(c => c.state)).toEqual(['intact', 'missing', 'altered'])
    expect(shares.at(-1)).toBe(1)
  })

  it('may be its zip, or its manifest alone', async () => {
    const text = (content: string) => new TextEncoder().encode(content)
    const entries = { 'manifest.json': JSON.stringify(manifest), ...FILES }
    const zip = zipSync(Object.fromEntries(Object.entries(entries).map(([path, content]) => [path, text(content)])))
    const whole = await readDroppedHandOver([{ path: 'FERRY.zip', file: new File([zip as BlobPart], 'FERRY.zip') }])
    expect((await compareFiles(whole.manifest, whole.files!, hash, () => {})).every(c => c.state === 'intact')).toBe(true)
    const alone = await readDroppedHandOver(drop({ 'FERRY-export-2-manifest.json': JSON.stringify(manifest) }))
    expect(alone).toMatchObject({ manifest: { project: { code: 'FERRY' } }, files: null })
  })

  it('of a zip in which a file was damaged says which; the others are as they were', async () => {
    const text = (content: string) => new TextEncoder().encode(content)
    const entries = { 'manifest.json': JSON.stringify(manifest), ...FILES }
    const zip = zipSync(Object.fromEntries(Object.entries(entries).map(([path, content]) => [path, text(content)])), { level: 0 })
    const at = new TextDecoder('latin1').decode(zip).indexOf('picture')
    zip[at] ^= 0xff
    const found = await readDroppedHandOver([{ path: 'FERRY.zip', file: new File([zip as BlobPart], 'FERRY.zip') }])
    const checked = await compareFiles(found.manifest, found.files!, hash, () => {})
    expect(checked.map(c => c.state)).toEqual(['intact', 'altered', 'intact'])
  })

  it('of hundreds of files is unpacked one after another', async () => {
    const paths = Array.from({ length: 400 }, (_, k) => `TIM/${k}.txt`)
    const zip = await startZip()
    for (const path of paths) await zip.add(path, new Blob([path]))
    const many = {
      ...manifest,
      items: [{ ...itemOf('TIM-0001', []), files: paths.map(path => ({ path, sha256: sha(path), bytes: path.length })) }],
    }
    await zip.add('manifest.json', new Blob([JSON.stringify(many)]))
    const whole = await readDroppedHandOver([{ path: 'a.zip', file: new File([await zip.close()], 'a.zip') }])
    let [open, most] = [0, 0]
    const checked = await compareFiles(
      whole.manifest,
      whole.files!,
      async file => {
        most = Math.max(most, ++open)
        const found = await hash(file)
        open--
        return found
      },
      () => {},
    )
    expect(checked).toHaveLength(400)
    expect(checked.every(c => c.state === 'intact')).toBe(true)
    expect(most).toBe(1)
  })

  it('that is none says so in a sentence', async () => {
    await expect(readDroppedHandOver(drop({ 'a/b.txt': '' }))).rejects.toThrow('no manifest.json')
    await expect(readDroppedHandOver(drop({ 'manifest.json': '{' }))).rejects.toThrow('does not read')
    await expect(readDroppedHandOver(drop({ 'a.zip': 'no zip' }))).rejects.toThrow('does not open')
  })
})
