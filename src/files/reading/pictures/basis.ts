import { readFile } from 'node:fs/promises'
import { createRequire } from 'node:module'
import { isOpaque, keepChannels } from '#core/codecs/block-compression'
import { FileError } from '#core/findings/failure'
import type { ByteImage } from '#core/image/image'

/** The part of the transcoder's interface that is used here. */
interface Ktx2File {
  isValid: () => boolean
  getWidth: () => number
  getHeight: () => number
  startTranscoding: () => boolean
  getImageTranscodedSizeInBytes: (level: number, layer: number, face: number, format: number) => number
  transcodeImage: (dst: Uint8Array, level: number, layer: number, face: number, format: number, ...more: number[]) => boolean
  close: () => void
  delete: () => void
}
interface Basis {
  initializeBasis: () => void
  KTX2File: new (bytes: Uint8Array) => Ktx2File
}

const RGBA32 = 13
const MAX_SIDE = 16384

let loading: Promise<Basis> | null = null

/** Basis Universal's own transcoder, as three ships it: a script for browsers, so it is run as one. */
const load = (): Promise<Basis> => {
  loading ??= (async () => {
    const { resolve } = createRequire(import.meta.url)
    const folder = 'three/examples/jsm/libs/basis/basis_transcoder'
    const [script, wasmBinary] = await Promise.all([
      readFile(resolve(`${folder}.js`), 'utf8'),
      readFile(resolve(`${folder}.wasm`)),
    ])
    const create = new Function('require', '__dirname', `${script}; return BASIS`)(createRequire(import.meta.url), '')
    const module: Basis = await create({ wasmBinary })
    module.initializeBasis()
    return module
  })()
  return loading
}

/**
 * The largest level of a KTX2 texture in Basis Universal's forms (ETC1S, UASTC).
 * @throws FileError `unsupported` where it holds another form
 */
export async function readKtx2(bytes: Uint8Array): Promise<ByteImage> {
  const { KTX2File } = await load()
  const file = new KTX2File(bytes)
  try {
    const [width, height] = file.isValid() ? [file.getWidth(), file.getHeight()] : [0, 0]
    if (width < 1 || height < 1)
      throw new FileError('unsupported', 'This KTX2 texture is damaged, or not in the form that glTF has (Basis Universal).')
    if (Math.max(width, height) > MAX_SIDE) throw new FileError('tooLarge', 'The picture is larger than 16384 x 16384 pixels.')
    if (!file.startTranscoding()) throw new FileError('malformed', 'The KTX2 texture does not decode; the file is damaged.')
    const data = new Uint8Array(file.getImageTranscodedSizeInBytes(0, 0, 0, RGBA32))
    if (!file.transcodeImage(data, 0, 0, 0, RGBA32, 0, -1, -1))
      throw new FileError('malformed', 'The KTX2 texture does not decode; the file is damaged.')
    return keepChannels({ width, height, channels: 4, data }, isOpaque(data) ? 3 : 4)
  } finally {
    file.close()
    file.delete()
  }
}
