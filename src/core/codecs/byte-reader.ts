import { FileError } from '../findings/failure'

/**
 * Reads little-endian values from untrusted bytes: every read is checked against what is left and advances. Each throws a FileError
 * where the bytes end before it does.
 */
export class ByteReader {
  position = 0
  private readonly view: DataView

  constructor(readonly bytes: Uint8Array) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  }

  get left(): number {
    return this.bytes.length - this.position
  }

  private advance(count: number): number {
    if (!(count >= 0) || count > this.left) {
      throw new FileError(
        'truncated',
        `The file ends early: ${count} more bytes were expected at byte ${this.position} of ${this.bytes.length}.`,
      )
    }
    const at = this.position
    this.position += count
    return at
  }

  seek(position: number): void {
    if (!(position >= 0 && position <= this.bytes.length))
      throw new FileError('truncated', `The file points to byte ${position}, past its end at ${this.bytes.length}.`)
    this.position = position
  }

  u8(): number {
    return this.view.getUint8(this.advance(1))
  }
  u16(): number {
    return this.view.getUint16(this.advance(2), true)
  }
  u32(): number {
    return this.view.getUint32(this.advance(4), true)
  }
  i32(): number {
    return this.view.getInt32(this.advance(4), true)
  }
  f32(): number {
    return this.view.getFloat32(this.advance(4), true)
  }
  /** A file offset: 64 bits, refused past 2^53. */
  u64(): number {
    return Number(this.view.getBigUint64(this.advance(8), true))
  }
  /** A view of the next `count` bytes, not a copy. */
  take(count: number): Uint8Array {
    const at = this.advance(count)
    return this.bytes.subarray(at, at + count)
  }
  /** Latin-1 text up to `terminator`, which is consumed. */
  textUntil(terminator: number, limit: number): string {
    let text = ''
    for (;;) {
      const byte = this.u8()
      if (byte === terminator) return text
      if (text.length >= limit) throw new FileError('malformed', `A name in the file runs past ${limit} characters.`)
      text += String.fromCharCode(byte)
    }
  }
}
