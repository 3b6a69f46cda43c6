import { mkdir, rename, rm, stat } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { FileError } from '#core/findings/failure'
import { severalAtOnce } from '#core/several-at-once'
import { hashFile } from '../reading/hash-bytes'
import { type Verified, verifyHandOver } from './verify-hand-over'

/** What was brought, and what was put aside for it. */
export interface Completed {
  brought: number
  /** Files that were altered here: kept beside what was handed over, under these names. */
  keptAside: string[]
  /** Why something could not be had, each reason once. */
  refused: string[]
  after: Verified
}

/** Writes one file of a hand-over, by its path in it. @throws FileError where it cannot be had */
export type Bring = (path: string, to: string) => Promise<void>

/** So many are brought together: each waits for the other side for most of its time. */
const AT_ONCE = 4

/**
 * Puts what is missing or altered into a folder, file by file: broken off, it goes on with what is missing then. What is there already as it
 * should be is neither asked for nor touched, and nothing that was altered is lost.
 * @param bring from wherever the whole is
 */
export async function completeHandOver(folder: string, before: Verified, bring: Bring): Promise<Completed> {
  const keptAside: string[] = []
  const refused = new Set<string>()
  let brought = 0
  const altered = new Set(before.altered.map(f => f.path))
  const hashes = new Map(before.manifest.items.flatMap(i => i.files).map(f => [f.path, f.sha256]))
  const wanted = [...before.missing, ...before.altered].map(f => f.path)
  const take = async (path: string) => {
    const to = join(folder, path)
    const part = `${to}.part`
    await mkdir(dirname(to), { recursive: true })
    try {
      await bring(path, part)
      // Whole and right, or not at all.
      if ((await hashFile(part)) !== hashes.get(path)) return
      if (altered.has(path)) keptAside.push(await putAside(folder, path))
      await rename(part, to)
      brought++
    } catch (error) {
      if (!(error instanceof FileError)) throw error
      refused.add(error.message)
    } finally {
      await rm(part, { force: true })
    }
  }
  await severalAtOnce(wanted, AT_ONCE, take)
  return { brought, keptAside: keptAside.sort(), refused: [...refused].sort(), after: await verifyHandOver(folder) }
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
