import { mkdir, readdir, rename, stat } from 'node:fs/promises'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import { getLibrary } from '../people/libraries'
import type { Actor } from '../platform/access'
import { ProblemError } from '../platform/problem'
import type { WorkContext } from '../platform/work-context'
import { libraries, people } from '../tables/people.table'
import { importPath } from './import-path'

/** Where a delivery goes once it was taken in, and one that could not be; beside it, so that nothing is lost. */
const TAKEN = 'taken'
const REFUSED = 'refused'

export interface Watch {
  /** Looks once at everything, and takes in what has come to rest. Gives the batches it began. */
  look(): Promise<number[]>
}

/**
 * Watches `folder/LIBRARY/DELIVERY`: each file, archive or folder that has not changed between two looks becomes a batch of the library
 * with that key, in the name of its first lead, and is moved aside. Call `look` from time to time.
 */
export function watchFolder(context: WorkContext, folder: string, report: (text: string) => void): Watch {
  const seen = new Map<string, string>()
  return {
    look: async () => {
      const begun: number[] = []
      for (const library of await listLibraries(context, folder)) {
        const home = join(folder, library)
        for (const name of await readdir(home)) {
          if (name === TAKEN || name === REFUSED || name.startsWith('.')) continue
          const path = join(home, name)
          const state = await describeTree(path)
          const isAtRest = state !== '' && seen.get(path) === state
          seen.set(path, state)
          if (!isAtRest) continue
          seen.delete(path)
          try {
            begun.push(await importPath(context, await findLead(context, library), { path, library }))
            await putAside(path, join(home, TAKEN), name)
          } catch (error) {
            if (!(error instanceof ProblemError)) throw error
            report(`${path} was not taken in: ${error.message}`)
            await putAside(path, join(home, REFUSED), name)
          }
        }
      }
      return begun
    },
  }
}

/** Folders that are called as a library is. */
async function listLibraries({ db }: WorkContext, folder: string): Promise<string[]> {
  const rows = await db.select({ key: libraries.key }).from(libraries)
  const entries = await readdir(folder, { withFileTypes: true })
  return rows.map(r => r.key).filter(key => entries.some(e => e.isDirectory() && e.name === key))
}

/** The first lead who may see the library. */
async function findLead({ db }: WorkContext, library: string): Promise<Actor> {
  for (const lead of await db.select().from(people).where(eq(people.role, 'lead')).orderBy(people.id)) {
    const mayTake = await getLibrary(db, lead, library).then(
      () => true,
      () => false,
    )
    if (mayTake) return lead
  }
  throw new ProblemError('notReady', `There is no lead yet who may see the library ${library}.`)
}

/** Names, sizes and times of all there is: while somebody copies, it changes. Empty when it went away. */
async function describeTree(path: string): Promise<string> {
  try {
    const info = await stat(path)
    if (!info.isDirectory()) return `${info.size}/${info.mtimeMs}`
    const entries = await readdir(path, { recursive: true, withFileTypes: true })
    const lines = await Promise.all(
      entries
        .filter(e => e.isFile())
        .map(async e => {
          const { size, mtimeMs } = await stat(join(e.parentPath, e.name))
          return `${e.parentPath}/${e.name} ${size} ${mtimeMs}`
        }),
    )
    return lines.sort().join('\n')
  } catch {
    return ''
  }
}

async function putAside(path: string, folder: string, name: string): Promise<void> {
  await mkdir(folder, { recursive: true })
  for (let k = 0; ; k++) {
    const target = join(folder, k === 0 ? name : `${k} ${name}`)
    const isFree = await stat(target).then(
      () => false,
      () => true,
    )
    if (isFree) return rename(path, target)
  }
}
