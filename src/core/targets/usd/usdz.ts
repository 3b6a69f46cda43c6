import { strToU8, zipSync } from 'fflate'

const LOCAL_HEADER = 30
const EXTRA_HEADER = 4
const ALIGNMENT = 64
/** An extra field of a zip that no reader makes anything of. */
const PADDING_ID = 0x1986

/**
 * A USDZ package: a zip of stored files, the layer first, the bytes of each at a multiple of 64 (USDZ specification 1.3).
 * @param files by their paths in it, in order
 */
export function packUsdz(files: readonly { path: string; bytes: Uint8Array }[]): Uint8Array {
  let at = 0
  const entries: Record<string, [Uint8Array, { level: 0; extra: Record<number, Uint8Array> }]> = {}
  for (const { path, bytes } of files) {
    const start = at + LOCAL_HEADER + strToU8(path).length
    const padding = (ALIGNMENT - ((start + EXTRA_HEADER) % ALIGNMENT)) % ALIGNMENT
    entries[path] = [bytes, { level: 0, extra: { [PADDING_ID]: new Uint8Array(padding) } }]
    at = start + EXTRA_HEADER + padding + bytes.length
  }
  return zipSync(entries)
}
