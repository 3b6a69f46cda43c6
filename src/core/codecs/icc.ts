/**
 * Name of an ICC colour profile, from its description tag (ICC.1:2022, 9.2.41; textDescriptionType of version 2 and
 * multiLocalizedUnicodeType of version 4). Null when the bytes are no profile or it has no name.
 */
export function readProfileName(bytes: Uint8Array): string | null {
  if (bytes.length < 132) return null
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  if (tagAt(bytes, 36) !== 'acsp') return null
  const count = Math.min(view.getUint32(128), 100)
  for (let i = 0; i < count; i++) {
    const entry = 132 + i * 12
    if (entry + 12 > bytes.length) return null
    if (tagAt(bytes, entry) !== 'desc') continue
    const offset = view.getUint32(entry + 4)
    const size = view.getUint32(entry + 8)
    return offset + size <= bytes.length && size >= 12 ? readDescription(bytes.subarray(offset, offset + size)) : null
  }
  return null
}

/** Whether a profile of this name is the one that pictures are taken to have anyway. */
export const isSrgbProfile = (name: string): boolean => /srgb|61966/i.test(name)

function readDescription(tag: Uint8Array): string | null {
  const view = new DataView(tag.buffer, tag.byteOffset, tag.byteLength)
  if (tagAt(tag, 0) === 'desc') {
    const length = view.getUint32(8)
    return clean(String.fromCharCode(...tag.subarray(12, Math.min(12 + length, tag.length))))
  }
  if (tagAt(tag, 0) === 'mluc' && tag.length >= 28) {
    const length = view.getUint32(20)
    const offset = view.getUint32(24)
    if (offset + length > tag.length) return null
    let text = ''
    for (let i = 0; i + 1 < length; i += 2) text += String.fromCharCode(view.getUint16(offset + i))
    return clean(text)
  }
  return null
}

const clean = (text: string): string | null => text.replaceAll('\0', '').trim() || null
const tagAt = (bytes: Uint8Array, at: number): string => String.fromCharCode(...bytes.subarray(at, at + 4))
