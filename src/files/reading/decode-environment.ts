import { closeSync, fstatSync, openSync, readFileSync, readSync } from 'node:fs'
import { inflateSync } from 'node:zlib'
import { FloatType } from 'three'
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js'
import { assertInside, type ByteSource } from '#core/codecs/byte-source'
import { type Inflate, listExrLayers, openExr, parseExr } from '#core/codecs/exr'
import { openHdr, parseHdr } from '#core/codecs/hdr'
import { FileError } from '#core/findings/failure'
import { createFloatImage, type FloatImage } from '#core/image/image'
import { type PictureRows, rowsOfImage } from '#core/image/picture-rows'

/** Linear RGB of an OpenEXR or Radiance file, rows from the top. */
export function decodeEnvironment(bytes: Uint8Array, type: 'exr' | 'hdr'): FloatImage {
  if (type === 'hdr') return parseHdr(bytes)
  try {
    return parseExr(bytes)
  } catch (error) {
    if (error instanceof FileError && error.code === 'unsupported') return decodeWithLoader(bytes)
    throw error
  }
}

/** Size of an environment by its header alone; null for one of a compression that is read whole. */
export function readEnvironmentSize(diskPath: string, type: 'exr' | 'hdr'): { width: number; height: number } | null {
  const handle = openSync(diskPath, 'r')
  try {
    const { width, height } = type === 'hdr' ? openHdr(sourceOfHandle(handle)) : openExr(sourceOfHandle(handle), inflate)
    return { width, height }
  } catch (error) {
    if (error instanceof FileError && error.code === 'unsupported') return null
    throw error
  } finally {
    closeSync(handle)
  }
}

/** zlib of the platform, several times as fast as one in JavaScript. */
const inflate: Inflate = (packed, size) => inflateSync(packed, { maxOutputLength: Math.max(1, size) })

/**
 * Opens an environment's file for reading row by row and closes it after `use`. Files that cannot be read so (wavelet and DCT
 * compressions) are read whole.
 * @throws FileError when the file is no environment, or damaged
 */
export function readEnvironmentRows<T>(diskPath: string, type: 'exr' | 'hdr', use: (rows: PictureRows) => T): T {
  const handle = openSync(diskPath, 'r')
  try {
    const source = sourceOfHandle(handle)
    if (type === 'hdr') return use(openHdr(source))
    let rows: PictureRows
    try {
      rows = openExr(source, inflate)
    } catch (error) {
      if (!(error instanceof FileError && error.code === 'unsupported')) throw error
      rows = rowsOfImage(decodeWithLoader(new Uint8Array(readFileSync(diskPath))))
    }
    return use(rows)
  } finally {
    closeSync(handle)
  }
}

/** Names of the pictures in an OpenEXR file, by its header alone. @throws FileError */
export function readExrLayers(diskPath: string): string[] {
  const handle = openSync(diskPath, 'r')
  try {
    return listExrLayers(sourceOfHandle(handle)).map(l => l.name)
  } finally {
    closeSync(handle)
  }
}

function sourceOfHandle(handle: number): ByteSource {
  const { size } = fstatSync(handle)
  let buffer = new Uint8Array(64 * 1024)
  return {
    size,
    read: (offset, length) => {
      assertInside(size, offset, length)
      if (buffer.length < length) buffer = new Uint8Array(length)
      let filled = 0
      while (filled < length) {
        const count = readSync(handle, buffer, filled, length - filled, offset + filled)
        if (count === 0) throw new FileError('truncated', 'The file became shorter while it was read.')
        filled += count
      }
      return buffer.subarray(0, length)
    },
  }
}

/** Wavelet and DCT compressions go through three's loader, whose rows come bottom-up. */
function decodeWithLoader(bytes: Uint8Array): FloatImage {
  let texture: { data?: unknown; width?: number; height?: number }
  try {
    const copy = bytes.slice().buffer
    texture = new EXRLoader().setDataType(FloatType).parse(copy) as typeof texture
  } catch {
    throw new FileError('malformed', 'The OpenEXR file does not decode; it is damaged or of an unsupported kind.')
  }
  const { data, width = 0, height = 0 } = texture
  if (!(data instanceof Float32Array) || width < 1 || height < 1)
    throw new FileError('unsupported', 'The OpenEXR file holds no colour picture.')
  const channels = data.length / (width * height)
  const image = createFloatImage(width, height, 3)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const from = ((height - 1 - y) * width + x) * channels
      for (let c = 0; c < 3; c++) image.data[(y * width + x) * 3 + c] = data[from + Math.min(c, channels - 1)]
    }
  return image
}
