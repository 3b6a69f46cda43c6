import { readFile } from 'node:fs/promises'
import sharp from 'sharp'
import { parseExr } from '#core/codecs/exr'
import { resolveType } from '#core/codecs/sniff'
import { wholeForm } from '#core/codecs/write-exr'
import { FileError } from '#core/findings/failure'
import type { ByteImage, FloatImage } from '#core/image/image'
import { collectRows, rowsOfImage } from '#core/image/picture-rows'
import { reduceRows } from '#core/image/row-reducer'
import { loadGltfIo } from '../models/gltf-io'
import { shrinkTextures } from '../models/shrink-textures'
import { readEnvironmentRows, readEnvironmentSize } from '../reading/decode-environment'
import { decodeByteImage, readImageHeader } from '../reading/decode-image'
import { readHead, type SourceFile } from '../reading/source-file'
import { encodeExr } from '../writing/encode-exr'
import { toPanorama } from '../writing/house-panorama'

/** What a page shows in place of a file that is larger than it needs, or of a form that browsers do not read. */
export interface ScreenCopy {
  bytes: Uint8Array
  mediaType: string
}

/** Forms of pictures that every browser reads. */
const READ_BY_BROWSERS: ReadonlySet<string> = new Set(['png', 'jpeg', 'webp'])

/**
 * @param role of the file; surroundings stay linear light, and a model's shapes as they are
 * @param longerPx of its longer side, or of each of a model's pictures, at most
 * @returns null where the file itself serves: it is small enough, and browsers read it
 * @throws FileError when it does not decode
 */
export const makeScreenCopy = (file: SourceFile, role: string, longerPx: number): Promise<ScreenCopy | null> =>
  role === 'environment'
    ? copySurroundings(file, longerPx)
    : role === 'model'
      ? copyModel(file, longerPx)
      : copyMap(file, role, longerPx)

async function copyMap({ path, diskPath }: SourceFile, role: string, longerPx: number): Promise<ScreenCopy | null> {
  const header = await readImageHeader(diskPath)
  const isSmall = Math.max(header.widthPx, header.heightPx) <= longerPx && header.bitsPerChannel <= 8
  if (isSmall && READ_BY_BROWSERS.has(resolveType(path, await readHead(diskPath)))) return null
  return encodeMap(await decodeByteImage(diskPath, longerPx, header), role)
}

/** Figures are kept to the code; a colour as closely as anybody sees, unless something is cut out of it. Both are quick to write and to read. */
async function encodeMap({ width, height, channels, data }: ByteImage, role: string): Promise<ScreenCopy> {
  const picture = sharp(data, { raw: { width, height, channels: channels as 1 | 2 | 3 | 4 } })
  if (role === 'baseColor' && channels === 3)
    return toCopy(await picture.jpeg({ quality: 95, chromaSubsampling: '4:4:4' }).toBuffer(), 'image/jpeg')
  const figures = channels === 3 && isGrey(data) ? picture.extractChannel(0) : picture
  return toCopy(await figures.png({ compressionLevel: 2, adaptiveFiltering: true }).toBuffer(), 'image/png')
}

const toCopy = (bytes: Uint8Array, mediaType: string): ScreenCopy => ({ bytes: new Uint8Array(bytes), mediaType })

function isGrey(rgb: Uint8Array): boolean {
  for (let i = 0; i < rgb.length; i += 3) if (rgb[i] !== rgb[i + 1] || rgb[i] !== rgb[i + 2]) return false
  return true
}

/** A model of the house's form, its pictures reduced: they are most of what there is to fetch of it. */
async function copyModel({ diskPath }: SourceFile, longerPx: number): Promise<ScreenCopy | null> {
  const io = await loadGltfIo()
  const document = await io.readBinary(new Uint8Array(await readFile(diskPath))).catch(() => {
    throw new FileError('malformed', 'The model does not read.')
  })
  return (await shrinkTextures(document, longerPx)) ? toCopy(await io.writeBinary(document), 'model/gltf-binary') : null
}

async function copySurroundings(file: SourceFile, widthPx: number): Promise<ScreenCopy | null> {
  const panorama = await toPanorama(file)
  if (panorama) {
    const image = parseExr(panorama.bytes)
    return asExr(image.width > widthPx ? reduceRows(rowsOfImage(image), widthPx) : image)
  }
  const type = resolveType(file.path, await readHead(file.diskPath)) === 'exr' ? 'exr' : 'hdr'
  // Without a size it is of a compression that pages do not read.
  const size = readEnvironmentSize(file.diskPath, type)
  if (size && size.width <= widthPx) return null
  return asExr(
    readEnvironmentRows(file.diskPath, type, rows => (rows.width > widthPx ? reduceRows(rows, widthPx) : collectRows(rows))),
  )
}

/** In half floats, unless its sun is brighter than they hold. */
function asExr(image: FloatImage): ScreenCopy {
  const isBright = image.data.some(v => v > MOST_HALF)
  return { bytes: encodeExr(image, undefined, isBright ? wholeForm(image) : undefined), mediaType: 'image/x-exr' }
}
const MOST_HALF = 65_504
