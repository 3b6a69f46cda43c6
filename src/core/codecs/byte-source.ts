import { FileError } from '../findings/failure'

/** Random access to the bytes of a file that need not be in memory. */
export interface ByteSource {
  readonly size: number
  /** A view or a copy of `length` bytes; valid until the next call. Throws a FileError `truncated` past the end. */
  read(offset: number, length: number): Uint8Array
}

export const sourceOfBytes = (bytes: Uint8Array): ByteSource => ({
  size: bytes.length,
  read: (offset, length) => {
    assertInside(bytes.length, offset, length)
    return bytes.subarray(offset, offset + length)
  },
})

/** @throws FileError when bytes are asked for that the file does not have */
export function assertInside(size: number, offset: number, length: number): void {
  if (!(offset >= 0 && length >= 0 && offset + length <= size))
    throw new FileError('truncated', `The file ends early: ${length} more bytes were expected at byte ${offset} of ${size}.`)
}
