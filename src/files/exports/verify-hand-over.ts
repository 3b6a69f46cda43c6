import { mkdtemp, readdir, readFile, rm, stat } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join, relative, sep } from 'node:path'
import { FileError } from '#core/findings/failure'
import { type ExportManifest, manifestSchema } from '#shared/contracts/hand-over.contract'
import { unpackArchive } from '../reading/archive'
import { hashFile } from '../reading/hash-bytes'

export const MANIFEST = 'manifest.json'

export interface NamedFile {
  code: string
  path: string
}

export interface Verified {
  manifest: ExportManifest
  /** Files that are there as they were handed over. */
  intact: number
  missing: NamedFile[]
  altered: NamedFile[]
  /** Files of editable copies that are not as they were: that is what they are for. */
  changedCopies: NamedFile[]
  /** What the manifest does not name. */
  unnamed: string[]
}

/**
 * Whether a hand-over is whole: every file that its manifest names, by its bytes.
 * @param path of the unpacked folder, of the zip, or of the manifest alone, whose files then lie beside it
 * @throws FileError where there is no manifest, or one that cannot be read
 */
export async function verifyHandOver(path: string): Promise<Verified> {
  const found = await stat(path).catch(() => null)
  if (!found) throw new FileError('notFound', `There is nothing at ${path}.`)
  if (found.isDirectory()) return verifyFolder(path)
  if (!/\.zip$/i.test(path)) return verifyFolder(join(path, '..'))
  const folder = await mkdtemp(join(tmpdir(), 'muscovite-verify-'))
  try {
    await unpackArchive(path, folder)
    return await verifyFolder(folder)
  } finally {
    await rm(folder, { recursive: true, force: true })
  }
}

async function verifyFolder(folder: string): Promise<Verified> {
  const manifest = await readManifest(folder)
  const verified: Verified = { manifest, intact: 0, missing: [], altered: [], changedCopies: [], unnamed: [] }
  const named = new Set([MANIFEST])
  for (const { code, files, isCopy } of manifest.items)
    for (const { path, sha256, bytes } of files) {
      named.add(path)
      const disk = join(folder, path)
      const there = await stat(disk).catch(() => null)
      if (!there?.isFile()) verified.missing.push({ code, path })
      else if (there.size !== bytes || (await hashFile(disk)) !== sha256)
        (isCopy ? verified.changedCopies : verified.altered).push({ code, path })
      else verified.intact++
    }
  const all = await readdir(folder, { recursive: true, withFileTypes: true })
  verified.unnamed = all
    .filter(entry => entry.isFile())
    .map(entry => relative(folder, join(entry.parentPath, entry.name)).split(sep).join('/'))
    .filter(path => !named.has(path) && !path.endsWith('.part'))
    .sort()
  return verified
}

/** @throws FileError */
export async function readManifest(folder: string): Promise<ExportManifest> {
  const text = await readFile(join(folder, MANIFEST), 'utf8').catch(() => null)
  if (text === null) throw new FileError('notFound', `There is no ${MANIFEST} in ${folder}: it is no hand-over of a project.`)
  try {
    return manifestSchema.parse(JSON.parse(text))
  } catch {
    throw new FileError('malformed', `The ${MANIFEST} does not read; have it handed over again.`)
  }
}
