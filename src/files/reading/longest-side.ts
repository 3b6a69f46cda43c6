import { resolveType } from '#core/codecs/sniff'
import { readEnvironmentRows } from './decode-environment'
import { readImageHeader } from './decode-image'
import { readHead } from './source-file'

/** Longer side of a picture in pixels, from its header; null for what is no picture, or does not read. */
export async function readLongestSide(diskPath: string, path: string): Promise<number | null> {
  try {
    const type = resolveType(path, await readHead(diskPath))
    if (type === 'exr' || type === 'hdr') return readEnvironmentRows(diskPath, type, rows => Math.max(rows.width, rows.height))
    if (!['png', 'jpeg', 'webp', 'tiff'].includes(type)) return null
    const { widthPx, heightPx } = await readImageHeader(diskPath)
    return Math.max(widthPx, heightPx)
  } catch {
    return null
  }
}
