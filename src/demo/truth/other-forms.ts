import { Logger, NodeIO } from '@gltf-transform/core'
import { EXTMeshoptCompression } from '@gltf-transform/extensions'
import { MeshoptEncoder } from 'meshoptimizer'
import sharp from 'sharp'
import type { Random } from '#core/math/random'
import { encodeMapFile, type MapFile } from './material-faults'

type Encode = (file: MapFile) => Promise<Uint8Array>

/** Forms without loss that suppliers send the maps of a set in, each with how many in twenty come so. */
const MAP_FORMS: readonly { ending: string; share: number; encode: Encode }[] = [
  { ending: 'png', share: 9, encode: encodeMapFile },
  { ending: 'tga', share: 5, encode: async ({ map }) => writeTga(map) },
  { ending: 'tif', share: 3, encode: ({ map }) => pixelsOf(map).tiff({ compression: 'lzw' }).toBuffer() },
  { ending: 'webp', share: 3, encode: ({ map }) => pixelsOf(map).webp({ lossless: true }).toBuffer() },
]

/** The form of a whole set. What has more than 8 bits, or a profile, comes as PNG all the same. */
export function pickMapForm(random: Random): (file: MapFile) => Promise<{ ending: string; bytes: Uint8Array }> {
  const drawn = MAP_FORMS.flatMap(form => Array<typeof form>(form.share).fill(form))
  const form = drawn[random.index(drawn.length)]
  return async file => {
    const { encode, ending } = file.profile || file.map.data instanceof Uint16Array ? MAP_FORMS[0] : form
    return { ending, bytes: new Uint8Array(await encode(file)) }
  }
}

const pixelsOf = ({ data, width, height, channels }: MapFile['map']) => sharp(data, { raw: { width, height, channels } })

/** Uncompressed, from the bottom up, as most programs write it. */
function writeTga({ width, height, channels, data }: MapFile['map']): Uint8Array {
  const out = new Uint8Array(18 + width * height * channels)
  out.set([
    0,
    0,
    channels === 1 ? 3 : 2,
    0,
    0,
    0,
    0,
    0,
    0,
    0,
    0,
    0,
    width & 255,
    width >> 8,
    height & 255,
    height >> 8,
    channels * 8,
  ])
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const from = (y * width + x) * channels
      const to = 18 + ((height - 1 - y) * width + x) * channels
      // Blue stands first.
      for (let c = 0; c < channels; c++) out[to + c] = data[from + (channels >= 3 && c < 3 ? 2 - c : c)]
    }
  return out
}

/** The same model with its buffers packed; not a value of it is another. */
export async function packModel(glb: Uint8Array): Promise<Uint8Array> {
  await MeshoptEncoder.ready
  const io = new NodeIO()
    .setLogger(new Logger(Logger.Verbosity.SILENT))
    .registerExtensions([EXTMeshoptCompression])
    .registerDependencies({ 'meshopt.encoder': MeshoptEncoder })
  const document = await io.readBinary(glb)
  document
    .createExtension(EXTMeshoptCompression)
    .setRequired(true)
    .setEncoderOptions({ method: EXTMeshoptCompression.EncoderMethod.QUANTIZE })
  return io.writeBinary(document)
}
