import { createHash } from 'node:crypto'
import { mkdir, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { zipSync } from 'fflate'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { FileError } from '#core/findings/failure'
import { type ExportManifest, manifestSchema } from '#shared/contracts/hand-over.contract'
import { takeEntry } from '../reading/archive-entry'
import { completeHandOver } from './complete-hand-over'
import { verifyHandOver } from './verify-hand-over'

const text = (of: string) => new TextEncoder().encode(of)
const FILES: Record<string, Uint8Array> = {
  'TIM_0001_Oak_v2/base.png': text('base colour'),
  'TIM_0001_Oak_v2/oak.mtlx': text('<materialx/>'),
  'CHR_0001_Chair_v1/chair.glb': text('glTF'),
}
const sha = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex')
const entry = (path: string) => ({ path, sha256: sha(FILES[path]), bytes: FILES[path].length })
const item = (code: string, version: number, paths: string[]) => ({
  ...{ code, name: code, kind: 'material', version, category: '', maker: '', licence: '', target: '', widthMm: null },
  tiling: 'repeat' as const,
  notes: [],
  files: paths.map(entry),
})
const [BASE, OAK, CHAIR] = Object.keys(FILES)
const manifest: ExportManifest = {
  project: { code: 'FERRY', title: 'Ferry hall' },
  source: { projectId: 1, exportId: 7 },
  exportedAt: '2026-11-28T09:00:00.000Z',
  maxSizePx: null,
  items: [item('TIM-0001', 2, [BASE, OAK]), item('CHR-0001', 1, [CHAIR])],
  failures: [],
}

let root: string
beforeAll(async () => {
  root = await mkdtemp(join(tmpdir(), 'muscovite-hand-over-'))
})
afterAll(() => rm(root, { recursive: true, force: true }))

let serial = 0
async function folderOf(files: Record<string, Uint8Array | string>): Promise<string> {
  const folder = join(root, String(++serial))
  for (const [path, bytes] of Object.entries({ 'manifest.json': JSON.stringify(manifest), ...files })) {
    await mkdir(dirname(join(folder, path)), { recursive: true })
    await writeFile(join(folder, path), bytes)
  }
  return folder
}
/** Brings files out of the zip of the whole. */
async function bringer() {
  const zip = await zipOf()
  return (path: string, to: string) => takeEntry(zip, path, to)
}
async function zipOf(): Promise<string> {
  const path = join(root, `whole-${++serial}.zip`)
  await writeFile(path, zipSync({ ...FILES, 'manifest.json': text(JSON.stringify(manifest)) }))
  return path
}

describe('a hand-over', () => {
  it('is whole when every file that is named is there by its bytes, in its folder or its zip', async () => {
    const whole = { intact: 3, missing: [], altered: [], unnamed: [] }
    expect(await verifyHandOver(await folderOf(FILES))).toMatchObject(whole)
    expect(await verifyHandOver(await zipOf())).toMatchObject(whole)
  })

  it('is told by the manifest alone what is missing, altered, and not of it', async () => {
    const folder = await folderOf({ [BASE]: text('base colouR'), [OAK]: FILES[OAK], 'notes/mine.txt': 'mine' })
    expect(await verifyHandOver(join(folder, 'manifest.json'))).toMatchObject({
      intact: 1,
      missing: [{ code: 'CHR-0001', path: CHAIR }],
      altered: [{ code: 'TIM-0001', path: BASE }],
      unnamed: ['notes/mine.txt'],
    })
  })

  it('has no fault in files of an editable copy that were changed; what is missing of it is missing all the same', async () => {
    const [wood, chair] = manifest.items
    const copies = JSON.stringify({ ...manifest, items: [{ ...wood, isCopy: true }, chair] })
    const folder = await folderOf({ ...FILES, [BASE]: text('base colouR'), 'manifest.json': copies })
    const changed = { altered: [], changedCopies: [{ code: 'TIM-0001', path: BASE }] }
    expect(await verifyHandOver(folder)).toMatchObject({ ...changed, intact: 2, missing: [] })
    await rm(join(folder, OAK))
    expect(await verifyHandOver(folder)).toMatchObject({ ...changed, intact: 1, missing: [{ code: 'TIM-0001', path: OAK }] })
  })

  it('is completed with what is missing; what was altered is kept aside, and what is there is not touched', async () => {
    const folder = await folderOf({ [BASE]: text('my own colour'), [OAK]: FILES[OAK] })
    const done = await completeHandOver(folder, await verifyHandOver(folder), await bringer())
    expect(done).toMatchObject({ brought: 2, keptAside: [`${BASE}.altered`], after: { intact: 3, missing: [], altered: [] } })
    expect(await readFile(join(folder, `${BASE}.altered`), 'utf8')).toBe('my own colour')
    // Once more, with another file altered in the same place.
    await writeFile(join(folder, BASE), 'again')
    const again = await completeHandOver(folder, await verifyHandOver(folder), await bringer())
    expect(again).toMatchObject({ brought: 1, keptAside: [`${BASE}.altered-2`] })
  })

  it('from an empty folder with a manifest becomes the whole', async () => {
    const folder = await folderOf({})
    const done = await completeHandOver(folder, await verifyHandOver(folder), await bringer())
    expect(done).toMatchObject({ brought: 3, keptAside: [], after: { intact: 3 } })
  })

  it('stays as it is where the other side has no longer what it had, or something else', async () => {
    const folder = await folderOf({ [BASE]: text('my own colour'), [OAK]: FILES[OAK] })
    const done = await completeHandOver(folder, await verifyHandOver(folder), async (path, to) => {
      if (path === CHAIR) throw new FileError('notFound', 'Gone.')
      await writeFile(to, 'something else')
    })
    expect(done).toMatchObject({ brought: 0, keptAside: [], refused: ['Gone.'] })
    expect(await readFile(join(folder, BASE), 'utf8')).toBe('my own colour')
    expect(done.after.unnamed).toEqual([])
  })

  it('without a manifest, or with one that leads out of its folder, is none', async () => {
    await expect(verifyHandOver(join(root, 'nowhere'))).rejects.toThrow('nothing at')
    const folder = join(root, String(++serial))
    await mkdir(folder)
    await expect(verifyHandOver(folder)).rejects.toThrow('no manifest.json')
    await writeFile(join(folder, 'manifest.json'), '{')
    await expect(verifyHandOver(folder)).rejects.toThrow('does not read')
    const evil = { ...manifest, items: [{ ...manifest.items[0], files: [{ ...entry(BASE), path: '../../etc/passwd' }] }] }
    expect(manifestSchema.safeParse(evil).success).toBe(false)
  })
})
