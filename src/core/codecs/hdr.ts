import { FileError } from '../findings/failure'
import { createFloatImage, type FloatImage } from '../image/image'
import { collectRows, type PictureRows, rowsOfImage } from '../image/picture-rows'
import { ByteReader } from './byte-reader'
import { type ByteSource, sourceOfBytes } from './byte-source'

/**
 * Radiance RGBE pictures (Ward, "Real Pixels", Graphics Gems II, 1991).
 * A value is mantissa / 256 * 2^(exponent - 128).
 */

const MAX_PIXELS = 16384 * 8192

/**
 * Linear RGB, rows from the top. The file's EXPOSURE lines are divided out, as the format asks.
 * Source: G. Ward, "Real Pixels", Graphics Gems II, 1991.
 * @throws FileError as {@link openHdr} does, and when a row does not read
 */
export const parseHdr = (bytes: Uint8Array): FloatImage => collectRows(openHdr(sourceOfBytes(bytes)))

const XYZE = '32-bit_rle_xyze'
const FORMATS = ['32-bit_rle_rgbe', XYZE]

/** CIE XYZ in place to linear Rec.709 (IEC 61966-2-1, white D65). */
function xyzToRgb(row: Float32Array, at: number): void {
  const [x, y, z] = [row[at], row[at + 1], row[at + 2]]
  row[at] = 3.2404542 * x - 1.5371385 * y - 0.4985314 * z
  row[at + 1] = -0.969266 * x + 1.8760108 * y + 0.041556 * z
  row[at + 2] = 0.0556434 * x - 0.2040259 * y + 1.0572252 * z
}

/** As much of the file is in memory at a time, and at least one row. */
const WINDOW = 4 * 1024 * 1024
const MAX_HEADER = 64 * 1024

/**
 * The rows of a Radiance file. One that is stored from the bottom up is read whole, so that its rows still come from the top.
 * @throws FileError when the header is damaged, of another pixel format, or names a picture too large or larger than the file
 */
export function openHdr(source: ByteSource): PictureRows {
  const head = new ByteReader(source.read(0, Math.min(source.size, MAX_HEADER)).slice())
  if (!/^#\?(RADIANCE|RGBE)/.test(head.textUntil(10, 256))) throw new FileError('malformed', 'The Radiance header is missing.')
  let exposure = 1
  let isXyz = false
  for (;;) {
    const line = head.textUntil(10, 4096)
    if (line === '') break
    const format = /^FORMAT=(.*)$/.exec(line)
    if (format && !FORMATS.includes(format[1].trim()))
      throw new FileError('unsupported', `The pixel format ${format[1].trim()} is not supported, only RGBE and XYZE.`)
    isXyz = format ? format[1].trim() === XYZE : isXyz
    const factor = /^EXPOSURE=(.*)$/.exec(line)
    if (factor && Number(factor[1]) > 0) exposure *= Number(factor[1])
  }
  const size = /^([-+])Y (\d+) ([-+])X (\d+)$/.exec(head.textUntil(10, 256))
  if (!size) throw new FileError('malformed', 'The picture size line is missing or in an unsupported order.')
  const height = Number(size[2])
  const width = Number(size[4])
  if (width < 1 || height < 1) throw new FileError('malformed', `The size ${width} x ${height} is not possible.`)
  if (width * height > MAX_PIXELS)
    throw new FileError('tooLarge', `${width} x ${height} pixels are more than the limit of ${MAX_PIXELS}.`)
  const start = head.position
  // A run-length row needs at least 4 bytes of header and 4 channels of 2 bytes for each 127 pixels.
  if (source.size - start < height * 4) throw new FileError('truncated', 'The picture ends before its last row.')
  const scales = Float64Array.from({ length: 256 }, (_, e) => (e === 0 ? 0 : 2 ** (e - 136) / exposure))
  const mirrored = size[3] === '-'
  return { width, height, forEachRow: size[1] === '-' ? forEachStoredRow : forEachRowFromTop }

  function forEachStoredRow(visit: (row: Float32Array, y: number) => void): void {
    const planar = new Uint8Array(width * 4)
    const row = new Float32Array(width * 3)
    // No row is longer than a count and a value for each byte of it.
    const longest = 4 + 8 * width
    let at = start
    let window = new ByteReader(new Uint8Array(0))
    for (let y = 0; y < height; y++) {
      if (window.left < longest && at + window.position < source.size) {
        at += window.position
        window = new ByteReader(source.read(at, Math.min(source.size - at, Math.max(WINDOW, longest))).slice())
      }
      readRow(window, planar, width)
      for (let x = 0; x < width; x++) {
        const scale = scales[planar[width * 3 + x]]
        const to = (mirrored ? width - 1 - x : x) * 3
        row[to] = planar[x] * scale
        row[to + 1] = planar[width + x] * scale
        row[to + 2] = planar[width * 2 + x] * scale
        if (isXyz) xyzToRgb(row, to)
      }
      visit(row, y)
    }
  }

  function forEachRowFromTop(visit: (row: Float32Array, y: number) => void): void {
    const stored = createFloatImage(width, height, 3)
    forEachStoredRow((row, y) => stored.data.set(row, (height - 1 - y) * width * 3))
    rowsOfImage(stored).forEachRow(visit)
  }
}

/** Fills `dstRow` planar: all red, all green, all blue, all exponents. */
function readRow(reader: ByteReader, dstRow: Uint8Array, width: number): void {
  const head = reader.take(4)
  if (width < 8 || width > 32767 || head[0] !== 2 || head[1] !== 2 || head[2] & 128) {
    readOldRow(reader, head, dstRow, width)
    return
  }
  if (((head[2] << 8) | head[3]) !== width) throw new FileError('malformed', 'A row is not as long as the picture.')
  for (let channel = 0; channel < 4; channel++) {
    let x = 0
    while (x < width) {
      const count = reader.u8()
      const run = count > 128 ? count - 128 : count
      if (run === 0 || x + run > width) throw new FileError('malformed', 'A run of pixels leaves its row.')
      const at = channel * width + x
      if (count > 128) dstRow.fill(reader.u8(), at, at + run)
      else dstRow.set(reader.take(run), at)
      x += run
    }
  }
}

/** Flat pixels, or the first run-length scheme, where (1, 1, 1, n) repeats the pixel before. */
function readOldRow(reader: ByteReader, firstPixel: Uint8Array, dstRow: Uint8Array, width: number): void {
  let x = 0
  let shift = 0
  let pixel = firstPixel
  for (;;) {
    if (x > 0 && pixel[0] === 1 && pixel[1] === 1 && pixel[2] === 1) {
      const run = pixel[3] << shift
      if (x + run > width) throw new FileError('malformed', 'A run of pixels leaves its row.')
      for (let c = 0; c < 4; c++) dstRow.fill(dstRow[c * width + x - 1], c * width + x, c * width + x + run)
      x += run
      shift = Math.min(shift + 8, 16)
    } else {
      for (let c = 0; c < 4; c++) dstRow[c * width + x] = pixel[c]
      x++
      shift = 0
    }
    if (x >= width) return
    pixel = reader.take(4)
  }
}

/** Run-length encoded RGBE of linear RGB; negative values are written as zero. */
export function writeHdr(image: FloatImage, comment = 'Written by Muscovite, linear Rec.709'): Uint8Array {
  const { width, height, data } = image
  const header = `#?RADIANCE\n# ${comment}\nFORMAT=32-bit_rle_rgbe\n\n-Y ${height} +X ${width}\n`
  const runLength = width >= 8 && width <= 32767
  // Worst case: one count byte for each 128 literals.
  const dst = new Uint8Array(header.length + height * (4 + 4 * (width + Math.ceil(width / 128) + 1)))
  let at = 0
  for (let i = 0; i < header.length; i++) dst[at++] = header.charCodeAt(i)
  const row = new Uint8Array(width * 4)
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) {
      const i = (y * width + x) * image.channels
      const r = Math.max(data[i], 0)
      const g = Math.max(data[i + 1], 0)
      const b = Math.max(data[i + 2], 0)
      const peak = Math.max(r, g, b)
      if (!(peak > 1e-32)) {
        row[x] = row[width + x] = row[width * 2 + x] = row[width * 3 + x] = 0
        continue
      }
      let e = Math.floor(Math.log2(peak)) + 1
      if (Math.round(peak * 2 ** (8 - e)) > 255) e++
      const scale = 2 ** (8 - e)
      row[x] = Math.min(255, Math.round(r * scale))
      row[width + x] = Math.min(255, Math.round(g * scale))
      row[width * 2 + x] = Math.min(255, Math.round(b * scale))
      row[width * 3 + x] = Math.min(255, Math.max(0, e + 128))
    }
    if (!runLength) {
      for (let x = 0; x < width; x++) for (let c = 0; c < 4; c++) dst[at++] = row[c * width + x]
      continue
    }
    dst[at++] = 2
    dst[at++] = 2
    dst[at++] = width >> 8
    dst[at++] = width & 255
    for (let c = 0; c < 4; c++) at = writeRuns(row.subarray(c * width, (c + 1) * width), dst, at)
  }
  return dst.slice(0, at)
}

function writeRuns(src: Uint8Array, dst: Uint8Array, start: number): number {
  let at = start
  let x = 0
  while (x < src.length) {
    let run = 1
    while (run < 127 && x + run < src.length && src[x + run] === src[x]) run++
    if (run >= 4) {
      dst[at++] = 128 + run
      dst[at++] = src[x]
      x += run
      continue
    }
    // Literals up to the next run of four.
    let end = x + 1
    while (end < src.length && end - x < 128) {
      if (end + 3 < src.length && src[end] === src[end + 1] && src[end] === src[end + 2] && src[end] === src[end + 3]) break
      end++
    }
    dst[at++] = end - x
    dst.set(src.subarray(x, end), at)
    at += end - x
    x = end
  }
  return at
}
