import { unzip } from 'fflate'
import { type ExportManifest, manifestSchema } from '#shared/contracts/hand-over.contract'

/** A sentence for who dropped something that is no hand-over. */
export class NoHandOver extends Error {}

export interface DroppedHandOver {
  manifest: ExportManifest
  /** What came along, by the path that it has in the hand-over; null of a manifest alone. */
  files: ReadonlyMap<string, File> | null
}

/** A zip is unpacked in memory; a larger one is looked at once it is unpacked. */
const MOST_ZIP_BYTES = 1024 ** 3

/** Finds the manifest in what was dropped, and beside it the files that it names. @throws NoHandOver */
export async function readDroppedHandOver(dropped: readonly { path: string; file: File }[]): Promise<DroppedHandOver> {
  const [only] = dropped
  if (dropped.length === 1 && /\.zip$/i.test(only.path)) return readDroppedHandOver(await unpack(only.file))
  const found = dropped
    .filter(({ path }) => /(^|[/-])manifest\.json$/.test(path))
    .sort((a, b) => a.path.split('/').length - b.path.split('/').length)[0]
  if (!found)
    throw new NoHandOver('There is no manifest.json in it: drop the folder that was handed over, its zip, or its manifest.')
  const manifest = await readManifest(found.file)
  if (dropped.length === 1) return { manifest, files: null }
  const base = found.path.slice(0, found.path.lastIndexOf('/') + 1)
  const beside = dropped.filter(d => d !== found && d.path.startsWith(base))
  return { manifest, files: new Map(beside.map(d => [d.path.slice(base.length), d.file])) }
}

async function readManifest(file: File): Promise<ExportManifest> {
  try {
    return manifestSchema.parse(JSON.parse(await file.text()))
  } catch {
    throw new NoHandOver('Its manifest does not read; have it handed over again.')
  }
}

async function unpack(zip: File): Promise<{ path: string; file: File }[]> {
  if (zip.size > MOST_ZIP_BYTES) throw new NoHandOver('This zip is too large to look into here; unpack it, and drop the folder.')
  const bytes = new Uint8Array(await zip.arrayBuffer())
  const entries = await new Promise<Record<string, Uint8Array>>((resolve, reject) =>
    unzip(bytes, (error, found) =>
      error ? reject(new NoHandOver('The zip does not open: it is damaged or was cut off.')) : resolve(found),
    ),
  )
  return Object.entries(entries)
    .filter(([path]) => !path.endsWith('/'))
    .map(([path, content]) => ({ path, file: new File([content as BlobPart], path.split('/').at(-1)!) }))
}

export interface CheckedFile {
  code: string
  path: string
  state: 'intact' | 'missing' | 'altered'
}

/**
 * Compares what is there with what the manifest says, file by file.
 * @param hash SHA-256, hexadecimal; null where a file cannot be read
 */
export async function compareFiles(
  manifest: ExportManifest,
  files: ReadonlyMap<string, File>,
  hash: (file: File) => Promise<string | null>,
  onProgress: (share: number) => void,
): Promise<CheckedFile[]> {
  const named = manifest.items.flatMap(({ code, files: list }) => list.map(f => ({ code, ...f })))
  const total = named.reduce((sum, f) => sum + f.bytes, 0)
  const checked: CheckedFile[] = []
  let done = 0
  for (const { code, path, bytes, sha256 } of named) {
    const file = files.get(path)
    const isSame = file !== undefined && file.size === bytes && (await hash(file)) === sha256
    checked.push({ code, path, state: !file ? 'missing' : isSame ? 'intact' : 'altered' })
    done += bytes
    onProgress(total > 0 ? done / total : 1)
  }
  return checked
}
