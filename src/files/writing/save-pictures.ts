import { readFile } from 'node:fs/promises'
import { parseExr } from '#core/codecs/exr'
import { writeHdr } from '#core/codecs/hdr'
import { comparePictures } from '#core/compare/compare-pictures'
import { joinPictures } from '#core/compare/join-pictures'
import { developForDisplay, developForDisplay16 } from '#core/render/film/develop'
import type { PictureFormat } from '#shared/contracts/compare.contract'
import { encodeExr } from './encode-exr'
import { encodeDeep, encodePicture } from './encode-picture'

/**
 * Linear pictures from OpenEXR files beside each other in one, as large as the largest: display-encoded for PNG, WebP, JPEG and TIFF, with the
 * profile that they are encoded by, and linear for OpenEXR and Radiance HDR. The file says which in its metadata, with `captions` and, of two,
 * how far they differ.
 * @throws FileError when a file does not read
 */
export async function savePictures(
  diskPaths: readonly string[],
  format: PictureFormat,
  captions: readonly string[] = [],
): Promise<Uint8Array> {
  const pictures = await Promise.all(diskPaths.map(async path => parseExr(new Uint8Array(await readFile(path)))))
  const what = [...captions]
  if (pictures.length === 2) {
    const { meanFlip, p95Flip, deltaEOfMeans } = comparePictures(pictures[0], pictures[1])
    what.push(`FLIP mean ${meanFlip.toFixed(4)}, p95 ${p95Flip.toFixed(4)}; dE00 of the means ${deltaEOfMeans.toFixed(2)}`)
  }
  const image =
    pictures.length === 1 ? pictures[0] : joinPictures(pictures, pictures.length === 4 ? 2 : Math.min(3, pictures.length))
  const say = (encoding: string) => [encoding, what.join('; ')].filter(Boolean).join('. ')
  switch (format) {
    case 'exr':
      return encodeExr(image, say('Linear Rec.709'))
    case 'hdr':
      return writeHdr(image, say('Linear Rec.709'))
    case 'png16':
    case 'tiff16': {
      const { width, height } = image
      const description = say('Display-encoded: PBR Neutral, sRGB, 16 bits')
      return new Uint8Array(await encodeDeep({ width, height, data: developForDisplay16(image) }, format, description))
    }
    case 'pngP3':
      return new Uint8Array(
        await encodePicture(developForDisplay(image), 'png', {
          description: say('Display-encoded: PBR Neutral, Display P3'),
          profile: 'p3',
        }),
      )
    default:
      return new Uint8Array(
        await encodePicture(developForDisplay(image), format, {
          description: say('Display-encoded: PBR Neutral, sRGB'),
          profile: 'srgb',
        }),
      )
  }
}
