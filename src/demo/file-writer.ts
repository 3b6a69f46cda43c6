import { mkdir, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'

/** Writes files below a folder and remembers their relative paths, in order. */
export function createFileWriter(root: string) {
  const written: string[] = []
  const put = async (path: string, bytes: Uint8Array | string): Promise<void> => {
    const full = join(root, path)
    await mkdir(dirname(full), { recursive: true })
    await writeFile(full, bytes)
    written.push(path)
  }
  return { put, written }
}
