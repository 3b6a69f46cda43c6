/** The true type of a file by its first bytes, whatever its extension says. */
export type FileType =
  | 'png'
  | 'jpeg'
  | 'webp'
  | 'tiff'
  | 'avif'
  | 'tga'
  | 'bmp'
  | 'psd'
  | 'dds'
  | 'ktx2'
  | 'pnm'
  | 'jxl'
  | 'exr'
  | 'hdr'
  | 'glb'
  | 'gltf'
  | 'zip'
  | 'obj'
  | 'mtl'
  | 'fbx'
  | 'dae'
  | 'ply'
  | 'stl'
  | 'usda'
  | 'usdc'
  | 'usdz'
  | 'ies'
  | 'ldt'
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
  avif: 'avif',
  tga: 'tga',
  icb: 'tga',
  vda: 'tga',
  vst: 'tga',
  bmp: 'bmp',
  dib: 'bmp',
  psd: 'psd',
  psb: 'psd',
  dds: 'dds',
  ktx2: 'ktx2',
  pnm: 'pnm',
  ppm: 'pnm',
  pgm: 'pnm',
  pbm: 'pnm',
  pfm: 'pnm',
  jxl: 'jxl',
  exr: 'exr',
  hdr: 'hdr',
  rgbe: 'hdr',
  glb: 'glb',
  gltf: 'gltf',
  zip: 'zip',
  obj: 'obj',
  mtl: 'mtl',
  fbx: 'fbx',
  dae: 'dae',
  zae: 'zip',
  ply: 'ply',
  stl: 'stl',
  usda: 'usda',
  usdc: 'usdc',
  usdz: 'usdz',
  ies: 'ies',
  ldt: 'ldt',
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
  avif: 'image/avif',
  tga: 'image/x-tga',
  bmp: 'image/bmp',
  psd: 'image/vnd.adobe.photoshop',
  dds: 'image/vnd-ms.dds',
  ktx2: 'image/ktx2',
  pnm: 'image/x-portable-anymap',
  jxl: 'image/jxl',
  exr: 'image/x-exr',
  hdr: 'image/vnd.radiance',
  glb: 'model/gltf-binary',
  gltf: 'model/gltf+json',
  zip: 'application/zip',
  obj: 'model/obj',
  mtl: 'model/mtl',
  fbx: 'application/octet-stream',
  dae: 'model/vnd.collada+xml',
  ply: 'model/ply',
  stl: 'model/stl',
  usda: 'model/vnd.usda',
  usdc: 'application/octet-stream',
  usdz: 'model/vnd.usdz+zip',
  ies: 'text/plain',
  ldt: 'text/plain',
  pdf: 'application/pdf',
  gif: 'image/gif',
  text: 'text/plain',
  empty: 'application/octet-stream',
  unknown: 'application/octet-stream',
}

const PICTURES: readonly FileType[] = [
  'png',
  'jpeg',
  'webp',
  'tiff',
  'gif',
  'avif',
  'tga',
  'bmp',
  'psd',
  'dds',
  'ktx2',
  'pnm',
  'jxl',
]
/** Flat pictures, of whatever kind; OpenEXR and Radiance are not among them, for they may be skies. */
export const isPictureType = (type: FileType): boolean => PICTURES.includes(type)

/** Models, the form that holds all of itself first. */
export const MODEL_TYPES: readonly FileType[] = ['glb', 'gltf', 'usdz', 'usdc', 'usda', 'fbx', 'dae', 'obj', 'ply', 'stl']
export const isModelType = (type: FileType): boolean => MODEL_TYPES.includes(type)

/** How a luminaire throws its light. */
export const isPhotometryType = (type: FileType): boolean => type === 'ies' || type === 'ldt'

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
  if (text.startsWith('Kaydara FBX Binary') || /^; FBX \d/.test(text)) return 'fbx'
  if (text.startsWith('PXR-USDC')) return 'usdc'
  if (text.startsWith('#usda')) return 'usda'
  if (/^ply\r?\n/.test(text)) return 'ply'
  if (text.startsWith('GIF8')) return 'gif'
  if (text.startsWith('BM') && starts(0x42, 0x4d) && [12, 40, 52, 56, 64, 108, 124].includes(head[14] ?? 0)) return 'bmp'
  if (text.startsWith('8BPS')) return 'psd'
  if (text.startsWith('DDS ')) return 'dds'
  if (starts(0xab, 0x4b, 0x54, 0x58, 0x20, 0x32, 0x30, 0xbb)) return 'ktx2'
  if (/^P[1-6Ff]\s/.test(text)) return 'pnm'
  if (starts(0xff, 0x0a) || starts(0, 0, 0, 0x0c, 0x4a, 0x58, 0x4c, 0x20)) return 'jxl'
  if (text.slice(4, 8) === 'ftyp' && /^avi[fs]/.test(text.slice(8, 12))) return 'avif'
  if (looksLikeTga(head)) return 'tga'
  const printable = head.subarray(0, 64).every(b => b === 9 || b === 10 || b === 13 || b >= 32)
  return printable ? 'text' : 'unknown'
}

/** Truevision TGA has no signature; its first 18 bytes allow few values. */
function looksLikeTga(head: Uint8Array): boolean {
  if (head.length < 18) return false
  const [, mapType, imageType] = head
  const mapDepth = head[7]
  const depth = head[16]
  const hasMap = imageType === 1 || imageType === 9
  return (
    mapType === (hasMap ? 1 : 0) &&
    [1, 2, 3, 9, 10, 11].includes(imageType) &&
    (hasMap ? [15, 16, 24, 32].includes(mapDepth) && depth === 8 : true) &&
    [8, 15, 16, 24, 32].includes(depth) &&
    head[12] + 256 * head[13] > 0 &&
    head[14] + 256 * head[15] > 0 &&
    (head[17] & 0xc0) === 0
  )
}

const NAMED_TEXTS: ReadonlySet<FileType> = new Set(['gltf', 'obj', 'mtl', 'dae', 'ies', 'ldt'])

const isUtf16 = (head: Uint8Array): boolean => (head[0] === 0xff && head[1] === 0xfe) || (head[0] === 0xfe && head[1] === 0xff)

/** Text formats carry no signature, so there the name decides, once the bytes are text at all. */
export function resolveType(path: string, head: Uint8Array): FileType {
  const sniffed = sniffType(head)
  const claimed = claimedType(path)
  // A binary STL begins with 80 bytes of anything, an OBJ may be in UTF-16, and a USDZ is a zip by its bytes.
  if (claimed === 'stl' && (sniffed === 'text' || sniffed === 'unknown' || sniffed === 'tga')) return 'stl'
  if (claimed === 'usdz' && sniffed === 'zip') return 'usdz'
  if (claimed === 'fbx' && sniffed === 'text') return 'fbx'
  if (isUtf16(head) && (claimed === 'obj' || claimed === 'mtl' || claimed === 'dae')) return claimed
  return sniffed === 'text' && NAMED_TEXTS.has(claimed) ? claimed : sniffed
}
