import { open, readFile, stat } from 'node:fs/promises'
import { claimedType, type FileType, isPictureType, resolveType } from '#core/codecs/sniff'
import { type Failure, FileError } from '#core/findings/failure'

/** One file of a delivery: the path it came under, and where its bytes are on this machine. */
export interface SourceFile {
  /** Relative, forward slashes. */
  path: string
  diskPath: string
  size: number
}

export interface TypedFile extends SourceFile {
  type: FileType
}

export interface FailedFile extends Failure {
  path: string
}

/** Largest single file read whole into memory. */
export const MAX_FILE_BYTES = 4 * 1024 ** 3

export async function readHead(diskPath: string, count = 64): Promise<Uint8Array> {
  const handle = await open(diskPath, 'r')
  try {
    const buffer = new Uint8Array(count)
    const { bytesRead } = await handle.read(buffer, 0, count, 0)
    return buffer.subarray(0, bytesRead)
  } finally {
    await handle.close()
  }
}

export async function readBytes(file: SourceFile): Promise<Uint8Array> {
  if (file.size > MAX_FILE_BYTES) throw new FileError('tooLarge', 'The file is larger than 4 GB.')
  return new Uint8Array(await readFile(file.diskPath))
}

export const sourceFileAt = async (diskPath: string, path: string): Promise<SourceFile> => ({
  path,
  diskPath,
  size: (await stat(diskPath)).size,
})

const TYPE_WORDS: Partial<Record<FileType, string>> = {
  png: 'a PNG picture',
  jpeg: 'a JPEG picture',
  webp: 'a WebP picture',
  tiff: 'a TIFF picture',
  avif: 'an AVIF picture',
  tga: 'a TGA picture',
  bmp: 'a BMP picture',
  psd: 'a PSD picture',
  dds: 'a DDS texture',
  ktx2: 'a KTX2 texture',
  pnm: 'a PNM picture',
  jxl: 'a JPEG XL picture',
  exr: 'an OpenEXR picture',
  hdr: 'a Radiance HDR picture',
  glb: 'a binary glTF model',
  zip: 'a zip archive',
  fbx: 'an FBX model',
  dae: 'a Collada model',
  ply: 'a PLY model',
  stl: 'an STL model',
  usda: 'a USD model as text',
  usdc: 'a USD model',
  usdz: 'a USDZ model',
  ies: 'an IES light curve',
  ldt: 'a EULUMDAT light curve',
  pdf: 'a PDF document',
  text: 'plain text',
  gif: 'a GIF picture',
  gltf: 'a glTF model',
  unknown: 'nothing we know',
}

/** Types a file by its bytes, and refuses one that is empty or is not what its name says. */
export async function identifyFile(file: SourceFile): Promise<{ file: TypedFile } | { failure: FailedFile }> {
  const refuse = (code: Failure['code'], message: string) => ({ failure: { path: file.path, code, message } })
  if (file.size === 0) return refuse('emptyFile', 'The file has 0 bytes; it was probably cut off when it was copied.')
  const head = await readHead(file.diskPath)
  const type = resolveType(file.path, head)
  const claimed = claimedType(file.path)
  const interchangeable = isPictureType(type) && isPictureType(claimed)
  if (claimed !== 'unknown' && claimed !== type && !interchangeable)
    return refuse('typeMismatch', `Its name says ${TYPE_WORDS[claimed] ?? claimed}, its content is ${TYPE_WORDS[type] ?? type}.`)
  if (await isCutOff(file, type))
    return refuse('truncated', 'The picture breaks off before its end; it was probably cut off when it was copied.')
  return { file: { ...file, type } }
}

/** How the last bytes of a whole file of a type look. */
const ENDINGS: Partial<Record<FileType, number[]>> = {
  png: [0x49, 0x45, 0x4e, 0x44, 0xae, 0x42, 0x60, 0x82],
  jpeg: [0xff, 0xd9],
}

/** Whether a picture lacks its ending. Some programs add padding or data of their own behind it, hence the wider look. */
async function isCutOff({ diskPath, size }: SourceFile, type: FileType): Promise<boolean> {
  const ending = ENDINGS[type]
  if (!ending) return false
  const handle = await open(diskPath, 'r')
  try {
    const tail = Buffer.alloc(Math.min(size, 64 * 1024))
    await handle.read(tail, 0, tail.length, size - tail.length)
    return !tail.includes(Buffer.from(ending))
  } finally {
    await handle.close()
  }
}
