import { copyFile, mkdir, rename, rm, stat } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { unpackArchive } from '../reading/archive'
import { type Verified, verifyHandOver } from './verify-hand-over'

/** What was brought, and what was put aside for it. */
export interface Completed {
  brought: number
  /** Files that were altered here: kept beside what was handed over, under these names. */
  keptAside: string[]
  after: Verified
}

/**
 * Puts what is missing or altered into a folder from the whole of the hand-over. What is there already as it should be is not touched, and
 * nothing that was altered is lost.
 * @param zipPath of the whole
 */
export async function completeHandOver(folder: string, before: Verified, zipPath: string): Promise<Completed> {
  const whole = `${zipPath}.unpacked.part`
  await rm(whole, { recursive: true, force: true })
  const keptAside: string[] = []
  let brought = 0
  try {
    const { files } = await unpackArchive(zipPath, whole)
    const at = new Map(files.map(f => [f.path, f]))
    const altered = new Set(before.altered.map(f => f.path))
    const hashes = new Map(before.manifest.items.flatMap(i => i.files).map(f => [f.path, f.sha256]))
    for (const { path } of [...before.missing, ...before.altered]) {
      const found = at.get(path)
      if (!found || found.hash !== hashes.get(path)) continue
      const to = join(folder, path)
      await mkdir(dirname(to), { recursive: true })
      if (altered.has(path)) keptAside.push(await putAside(folder, path))
      // Whole or not at all, whenever it breaks off.
      await copyFile(found.diskPath, `${to}.part`)
      await rename(`${to}.part`, to)
      brought++
    }
  } finally {
    await rm(whole, { recursive: true, force: true })
  }
  return { brought, keptAside, after: await verifyHandOver(folder) }
}

async function putAside(folder: string, path: string): Promise<string> {
  for (let n = 1; ; n++) {
    const aside = `${path}.altered${n === 1 ? '' : `-${n}`}`
    const isTaken = await stat(join(folder, aside)).catch(() => null)
    if (isTaken) continue
    await rename(join(folder, path), join(folder, aside))
    return aside
  }
}
