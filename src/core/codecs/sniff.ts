/** The true type of a file by its first bytes, whatever its extension says. */
export type FileType =
  | 'png'
  | 'jpeg'
  | 'webp'
  | 'tiff'
  | 'exr'
  | 'hdr'
  | 'glb'
  | 'gltf'
  | 'zip'
  | 'obj'
  | 'mtl'
  | 'pdf'
  | 'gif'
  | 'text'
  | 'empty'
  | 'unknown'

const EXTENSION_TYPES: Record<string, FileType> = {
  png: 'png',
  jpg: 'jpeg',
  jpeg: 'jpeg',
  webp: 'webp',
  tif: 'tiff',
  tiff: 'tiff',
  exr: 'exr',
  hdr: 'hdr',
  rgbe: 'hdr',
  glb: 'glb',
  gltf: 'gltf',
  zip: 'zip',
  obj: 'obj',
  mtl: 'mtl',
  pdf: 'pdf',
  gif: 'gif',
  txt: 'text',
  csv: 'text',
  md: 'text',
  json: 'text',
  xml: 'text',
  mtlx: 'text',
}

export const MEDIA_TYPES: Record<FileType, string> = {
  png: 'image/png',
  jpeg: 'image/jpeg',
  webp: 'image/webp',
  tiff: 'image/tiff',
  exr: 'image/x-exr',
  hdr: 'image/vnd.radiance',
  glb: 'model/gltf-binary',
  gltf: 'model/gltf+json',
  zip: 'application/zip',
  obj: 'model/obj',
  mtl: 'model/mtl',
  pdf: 'application/pdf',
  gif: 'image/gif',
  text: 'text/plain',
  empty: 'application/octet-stream',
  unknown: 'application/octet-stream',
}

export const extensionOf = (path: string): string => /\.([a-z0-9]+)$/i.exec(path)?.[1].toLowerCase() ?? ''

/** The type the name claims; `unknown` when it claims none we know. */
export const claimedType = (path: string): FileType => EXTENSION_TYPES[extensionOf(path)] ?? 'unknown'

/** @param head at least the first 64 bytes, or the whole file when it is shorter */
export function sniffType(head: Uint8Array): FileType {
  if (head.length === 0) return 'empty'
  const starts = (...bytes: number[]) => bytes.every((b, i) => head[i] === b)
  const text = String.fromCharCode(...head.subarray(0, 64))
  if (starts(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a)) return 'png'
  if (starts(0xff, 0xd8, 0xff)) return 'jpeg'
  if (text.startsWith('RIFF') && text.slice(8, 12) === 'WEBP') return 'webp'
  if (starts(0x49, 0x49, 42, 0) || starts(0x4d, 0x4d, 0, 42) || starts(0x49, 0x49, 43, 0)) return 'tiff'
  if (starts(0x76, 0x2f, 0x31, 0x01)) return 'exr'
  if (text.startsWith('#?RADIANCE') || text.startsWith('#?RGBE')) return 'hdr'
  if (text.startsWith('glTF')) return 'glb'
  if (starts(0x50, 0x4b, 3, 4) || starts(0x50, 0x4b, 5, 6)) return 'zip'
  if (text.startsWith('%PDF')) return 'pdf'
  if (text.startsWith('GIF8')) return 'gif'
  const printable = head.subarray(0, 64).every(b => b === 9 || b === 10 || b === 13 || b >= 32)
  return printable ? 'text' : 'unknown'
}

/** Text formats carry no signature, so there the name decides, once the bytes are text at all. */
export function resolveType(path: string, head: Uint8Array): FileType {
  const sniffed = sniffType(head)
  const claimed = claimedType(path)
  return sniffed === 'text' && (claimed === 'gltf' || claimed === 'obj' || claimed === 'mtl') ? claimed : sniffed
}
