import { readFile } from 'node:fs/promises'
import { keepChannels } from '#core/codecs/block-compression'
import { sourceOfBytes } from '#core/codecs/byte-source'
import { openExr } from '#core/codecs/exr'
import { type FileType, sniffType } from '#core/codecs/sniff'
import { FileError } from '#core/findings/failure'
import type { Image } from '#core/image/image'
import { collectRows } from '#core/image/picture-rows'
import { type MapRole, parseMapName } from '#core/material/texture-set'
import { readExrLayers } from '../decode-environment'
import { readHead, type SourceFile } from '../source-file'
import { openPsd } from './other-pictures'

/** One of several maps that lie in a file as its layers. */
export interface LayerMap {
  role: MapRole
  layer: string
}

const BEAUTY = /(^|\.|\s)(rgba?|beauty|combined|composite)$/i

/**
 * The maps that a layered OpenEXR or PSD holds, by the names of its layers; none where it is one picture, or the passes of a rendering.
 * A file that does not read has none: what it fails by is told where it is opened.
 */
export async function listLayerMaps(file: SourceFile): Promise<LayerMap[]> {
  const type = sniffType(await readHead(file.diskPath))
  if (type !== 'exr' && type !== 'psd') return []
  const names = await listLayers(file, type).catch(() => [])
  if (type === 'exr' && names.some(name => name === '' || BEAUTY.test(name))) return []
  const maps = new Map<MapRole, LayerMap>()
  for (const layer of names) {
    const { role } = parseMapName(`set_${layer.replaceAll('.', '_')}.png`)
    if (role && !maps.has(role)) maps.set(role, { role, layer })
  }
  return maps.size > 1 ? [...maps.values()] : []
}

async function listLayers(file: SourceFile, type: FileType): Promise<string[]> {
  if (type === 'exr') return readExrLayers(file.diskPath)
  const bytes = new Uint8Array(await readFile(file.diskPath))
  const { children = [] } = await openPsd(bytes, { withLayers: false })
  return children.flatMap(layer => layer.name ?? [])
}

/** One layer as a picture of the whole file's size; what a PSD's layer leaves uncovered is black. @throws FileError */
export async function readLayer(file: SourceFile, layer: string): Promise<Image> {
  const bytes = new Uint8Array(await readFile(file.diskPath))
  if (sniffType(bytes.subarray(0, 64)) === 'exr') return collectRows(openExr(sourceOfBytes(bytes), undefined, layer))
  const psd = await openPsd(bytes, { withLayers: true })
  const found = psd.children?.find(child => child.name === layer)
  const pixels = found?.imageData?.data
  if (!found?.imageData || !(pixels instanceof Uint8ClampedArray))
    throw new FileError(
      'unsupported',
      `The layer ${layer} of the PSD is not one of pixels with 8 bits; save it as a file of its own.`,
    )
  const { width, height } = psd
  const rgba = new Uint8Array(width * height * 4)
  const [left, top] = [found.left ?? 0, found.top ?? 0]
  for (let y = 0; y < found.imageData.height; y++)
    for (let x = 0; x < found.imageData.width; x++) {
      if (x + left < 0 || x + left >= width || y + top < 0 || y + top >= height) continue
      const from = (y * found.imageData.width + x) * 4
      rgba.set(pixels.subarray(from, from + 4), ((y + top) * width + x + left) * 4)
    }
  return keepChannels({ width, height, channels: 4, data: rgba }, 3)
}
