import sharp from 'sharp'
import { encodeSrgb } from '#core/color/srgb'
import type { Image } from '#core/image/image'
import type { GraphImage } from '#core/targets/materialx/graph-images'
import { type BakedMap, bakeMaps, parseMaterialX } from '#core/targets/materialx/read-materialx'
import type { ItemSource } from '../items/item-source'
import { readDefinition } from '../items/load-item'
import { createResolvers } from '../models/model-references'
import { decodeAsIs } from '../reading/decode-image'
import { readBytes } from '../reading/source-file'
import type { DerivedFile } from './apply-fixes'

/** Of a graph without pictures, and the most of one with them. */
const USUAL_PX = 1024
const MOST_PX = 2048
const ENCODED: readonly string[] = ['baseColor', 'emission', 'translucency']

/**
 * The maps that a material's definition describes as a graph of nodes, worked out from its pictures; none where its maps are there already.
 * @throws FileError when the definition or a picture of it does not read
 */
export async function bakeDefinition(source: ItemSource): Promise<DerivedFile[]> {
  const definition = source.kind === 'material' ? await readDefinition(source) : null
  if (!definition) return []
  const { text } = definition
  const material = source.materialName ?? null
  const { baked, files: addresses } = parseMaterialX(text, material)
  const wanted = baked.filter(role => !source.files.some(f => f.role === role))
  if (wanted.length === 0) return []
  const resolve = createResolvers(source.files.map(f => f.file))(definition.path)
  const images = new Map<string, GraphImage>()
  for (const address of addresses) {
    const file = resolve(address)
    if (file) images.set(address, toGraphImage(await decodeAsIs(await readBytes(file))))
  }
  const [width, height] = sizeFor([...images.values()])
  const maps = bakeMaps(text, material, address => images.get(address) ?? null, width, height)
  const stem = definition.path.replace(/\.[^./]+$/, material ? ` ${material}` : '')
  return Promise.all(
    maps
      .filter(map => wanted.includes(map.role))
      .map(async map => ({
        from: null,
        path: `${stem}_${map.role}.png`,
        role: map.role,
        handednessHint: map.role === 'normal' ? ('openGl' as const) : null,
        bytes: await encode(map),
      })),
  )
}

function toGraphImage({ width, height, channels, data }: Image): GraphImage {
  const most = data instanceof Uint8Array ? 255 : data instanceof Uint16Array ? 65535 : 1
  return { width, height, channels, at: index => data[index] / most }
}

/** As large as its largest picture, up to what a house material needs; of a graph without one a square. */
function sizeFor(images: readonly GraphImage[]): [number, number] {
  const [largest] = [...images].sort((a, b) => b.width * b.height - a.width * a.height)
  if (!largest) return [USUAL_PX, USUAL_PX]
  const scale = Math.min(1, MOST_PX / Math.max(largest.width, largest.height))
  return [Math.max(1, Math.round(largest.width * scale)), Math.max(1, Math.round(largest.height * scale))]
}

/** Heights in 16 bits, all else in 8; colours as displays have them. */
async function encode({ role, width, height, channels, data }: BakedMap): Promise<Uint8Array> {
  const raw = { width, height, channels }
  if (role === 'height') {
    const codes = Uint16Array.from(data, v => Math.round(v * 65535))
    return sharp(codes, { raw }).toColourspace('grey16').png().toBuffer()
  }
  const isEncoded = ENCODED.includes(role)
  const codes = Uint8Array.from(data, v => Math.round((isEncoded ? encodeSrgb(v) : v) * 255))
  const pixels = sharp(codes, { raw })
  return (channels === 1 ? pixels.toColourspace('b-w') : pixels).png().toBuffer()
}
