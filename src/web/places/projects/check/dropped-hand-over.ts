import { type ExportManifest, manifestSchema } from '#shared/contracts/hand-over.contract'
import { listZip } from './zips'

/** A sentence for who dropped something that is no hand-over. */
export class NoHandOver extends Error {}

export interface DroppedHandOver {
  manifest: ExportManifest
  /** What came along, by the path that it has in the hand-over; null of a manifest alone. */
  files: ReadonlyMap<string, FoundFile> | null
}

/** A file that is there, in a folder or in a zip, which is unpacked when it is its turn. */
export interface FoundFile {
  path: string
  size: number
  /** Rejects where it does not read. */
  open: () => Promise<Blob>
}

/** Finds the manifest in what was dropped, and beside it the files that it names. @throws NoHandOver */
export async function readDroppedHandOver(dropped: readonly { path: string; file: File }[]): Promise<DroppedHandOver> {
  const [only] = dropped
  if (dropped.length === 1 && /\.zip$/i.test(only.path)) return findManifest(await list(only.file))
  return findManifest(dropped.map(({ path, file }) => ({ path, size: file.size, open: async () => file })))
}

async function findManifest(there: readonly FoundFile[]): Promise<DroppedHandOver> {
  const found = there
    .filter(({ path }) => /(^|[/-])manifest\.json$/.test(path))
    .sort((a, b) => a.path.split('/').length - b.path.split('/').length)[0]
  if (!found)
    throw new NoHandOver('There is no manifest.json in it: drop the folder that was handed over, its zip, or its manifest.')
  const manifest = await readManifest(found)
  if (there.length === 1) return { manifest, files: null }
  const base = found.path.slice(0, found.path.lastIndexOf('/') + 1)
  const beside = there.filter(f => f !== found && f.path.startsWith(base))
  return { manifest, files: new Map(beside.map(f => [f.path.slice(base.length), f])) }
}

async function readManifest({ open }: FoundFile): Promise<ExportManifest> {
  try {
    return manifestSchema.parse(JSON.parse(await (await open()).text()))
  } catch {
    throw new NoHandOver('Its manifest does not read; have it handed over again.')
  }
}

async function list(zip: File): Promise<FoundFile[]> {
  try {
    return await listZip(zip)
  } catch {
    throw new NoHandOver('The zip does not open: it is damaged or was cut off.')
  }
}

export interface CheckedFile {
  code: string
  path: string
  state: 'intact' | 'missing' | 'altered'
}

/**
 * Compares what is there with what the manifest says, file by file. What does not read is altered.
 * @param hash SHA-256, hexadecimal; null where a file cannot be read
 */
export async function compareFiles(
  manifest: ExportManifest,
  files: ReadonlyMap<string, FoundFile>,
  hash: (file: Blob) => Promise<string | null>,
  onProgress: (share: number) => void,
): Promise<CheckedFile[]> {
  const named = manifest.items.flatMap(({ code, isCopy, files: list }) => list.map(f => ({ code, isCopy, ...f })))
  const total = named.reduce((sum, f) => sum + f.bytes, 0)
  const checked: CheckedFile[] = []
  let done = 0
  for (const { code, isCopy, path, bytes, sha256 } of named) {
    const file = files.get(path)
    const opened = file?.size === bytes ? await file.open().catch(() => null) : null
    // An editable copy is there to be changed.
    const isSame = isCopy || (opened !== null && (await hash(opened)) === sha256)
    checked.push({ code, path, state: !file ? 'missing' : isSame ? 'intact' : 'altered' })
    done += bytes
    onProgress(total > 0 ? done / total : 1)
  }
  return checked
}
