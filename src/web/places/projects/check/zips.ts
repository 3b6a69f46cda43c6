/** The library of zips comes when there is one; it works by the browser's own streams, on the page's thread. */
async function library() {
  const zips = await import('@zip.js/zip.js/index-native.js')
  zips.configure({ useWebWorkers: false })
  return zips
}

export interface ZipEntry {
  path: string
  /** Unpacked, bytes. */
  size: number
  /** Unpacks it. @throws where it is damaged */
  open: () => Promise<Blob>
}

/** What a zip holds, whatever its size: only its list is read. @throws where that does not read */
export async function listZip(zip: Blob): Promise<ZipEntry[]> {
  const { BlobReader, BlobWriter, ZipReader } = await library()
  const entries = await new ZipReader(new BlobReader(zip)).getEntries()
  return entries.flatMap(entry =>
    entry.directory
      ? []
      : [
          {
            path: entry.filename,
            size: entry.uncompressedSize,
            open: () => entry.getData(new BlobWriter(), { checkSignature: true }),
          },
        ],
  )
}

export interface ZipBeingWritten {
  add: (path: string, file: Blob) => Promise<void>
  /** The whole of it; nothing is added after. */
  close: () => Promise<Blob>
}

/** Begins a zip that files are put into one after another, as they are. */
export async function startZip(): Promise<ZipBeingWritten> {
  const { BlobReader, BlobWriter, ZipWriter } = await library()
  const writer = new ZipWriter(new BlobWriter('application/zip'), { level: 0 })
  return {
    add: async (path, file) => {
      await writer.add(path, new BlobReader(file))
    },
    close: () => writer.close(),
  }
}
