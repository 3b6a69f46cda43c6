import { inflateSync } from 'node:zlib'
import { FileError } from '#core/findings/failure'

const WOFF = 0x774f4646
const HEADER = 44
const ENTRY = 20

/**
 * The OpenType font in a WOFF file. WOFF File Format 1.0 (W3C 2012): a directory of tables, each deflated by itself.
 * @throws FileError for what is no WOFF file
 */
export function unwrapWoff(woff: Uint8Array): Uint8Array {
  const view = new DataView(woff.buffer, woff.byteOffset, woff.byteLength)
  if (woff.byteLength < HEADER || view.getUint32(0) !== WOFF) throw new FileError('unreadable', 'This is no WOFF font.')
  const count = view.getUint16(12)
  const tables = Array.from({ length: count }, (_, k) => {
    const [tag, offset, packed, size, sum] = [0, 4, 8, 12, 16].map(at => view.getUint32(HEADER + k * ENTRY + at))
    const bytes = woff.subarray(offset, offset + packed)
    return { tag, sum, bytes: packed < size ? new Uint8Array(inflateSync(bytes)) : bytes }
  })
  const font = new Uint8Array(tables.reduce((end, t) => end + padded(t.bytes.length), 12 + 16 * count))
  const out = new DataView(font.buffer)
  const log = Math.floor(Math.log2(count))
  out.setUint32(0, view.getUint32(4))
  out.setUint16(4, count)
  out.setUint16(6, 16 * 2 ** log)
  out.setUint16(8, log)
  out.setUint16(10, 16 * (count - 2 ** log))
  let at = 12 + 16 * count
  tables.forEach(({ tag, sum, bytes }, k) => {
    for (const [i, value] of [tag, sum, at, bytes.length].entries()) out.setUint32(12 + 16 * k + 4 * i, value)
    font.set(bytes, at)
    at += padded(bytes.length)
  })
  return font
}

/** Tables begin at every fourth byte. */
const padded = (length: number): number => (length + 3) & ~3
