import { readdir } from 'node:fs/promises'
import { join } from 'node:path'
import { FileError } from '#core/findings/failure'
import { MANIFEST, type Verified, verifyHandOver } from './verify-hand-over'

/** An item of the library as it lies on a machine. */
export interface DeskItem {
  code: string
  version: number
  /** Whether every file of it is there as it was handed over. */
  isWhole: boolean
}

export interface Desk {
  /** Folders of hand-overs. */
  handOvers: string[]
  items: DeskItem[]
  /** Folders whose manifest cannot be read. */
  unread: string[]
}

/** Folders in which nobody keeps what was handed over, and which are long. */
const PASSED_OVER = new Set(['node_modules', '.git', '$RECYCLE.BIN', 'System Volume Information'])

/**
 * Everything that was handed over and lies in a folder or anywhere below it, each file compared by its bytes.
 * @param onFolder is told each hand-over as it is looked at
 * @throws FileError where there is no such folder
 */
export async function listDesk(folder: string, onFolder: (path: string) => void = () => {}): Promise<Desk> {
  const desk: Desk = { handOvers: [], items: [], unread: [] }
  const folders = [folder]
  for (let at = folders.pop(); at !== undefined; at = folders.pop()) {
    const entries = await readdir(at, { withFileTypes: true }).catch(() => null)
    if (!entries) {
      if (at === folder) throw new FileError('notFound', `There is no folder at ${folder}.`)
      // What may not be read holds nothing that could be used either.
      continue
    }
    if (entries.some(e => e.isFile() && e.name === MANIFEST)) {
      onFolder(at)
      const verified = await verifyHandOver(at).catch((error: unknown) => {
        if (error instanceof FileError) return null
        throw error
      })
      if (verified) {
        desk.handOvers.push(at)
        desk.items.push(...toDeskItems(verified))
        continue
      }
      desk.unread.push(at)
    }
    for (const e of entries) if (e.isDirectory() && !PASSED_OVER.has(e.name)) folders.push(join(at, e.name))
  }
  return desk
}

/** Each item of a hand-over, with whether it is whole. */
function toDeskItems({ manifest, missing, altered }: Pick<Verified, 'manifest' | 'missing' | 'altered'>): DeskItem[] {
  const broken = new Set([...missing, ...altered].map(f => f.code))
  return manifest.items.map(({ code, version }) => ({ code, version, isWhole: !broken.has(code) }))
}
