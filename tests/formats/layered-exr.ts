/** A picture of floats for each channel, full names, such as "baseColor.R". */
export interface ExrPart {
  name?: string
  channels: Record<string, (x: number, y: number) => number>
}

/** An uncompressed OpenEXR of 32-bit floats with any channels, in one part or several. */
export function writeLayeredExr(width: number, height: number, parts: readonly ExrPart[]): Uint8Array {
  const isMulti = parts.length > 1
  const head: number[] = []
  const u32 = (v: number) => [v & 255, (v >> 8) & 255, (v >> 16) & 255, (v >>> 24) & 255]
  const text = (s: string) => [...Array.from(s, c => c.charCodeAt(0)), 0]
  const attribute = (name: string, type: string, value: number[]) =>
    head.push(...text(name), ...text(type), ...u32(value.length), ...value)
  head.push(...u32(20000630), ...u32(isMulti ? 2 | 0x1000 : 2))
  const box = [0, 0, width - 1, height - 1].flatMap(u32)
  // Channels stand in the order of their names.
  const lists = parts.map(p => Object.entries(p.channels).sort(([a], [b]) => (a < b ? -1 : 1)))
  for (const [i, part] of parts.entries()) {
    attribute('channels', 'chlist', [
      ...lists[i].flatMap(([name]) => [...text(name), ...u32(2), ...u32(0), ...u32(1), ...u32(1)]),
      0,
    ])
    attribute('compression', 'compression', [0])
    attribute('dataWindow', 'box2i', box)
    attribute('displayWindow', 'box2i', box)
    attribute('lineOrder', 'lineOrder', [0])
    if (isMulti) {
      const said = Array.from(part.name ?? '', c => c.charCodeAt(0))
      attribute('name', 'string', said)
      attribute(
        'type',
        'string',
        Array.from('scanlineimage', c => c.charCodeAt(0)),
      )
      attribute('chunkCount', 'int', u32(height))
    }
    head.push(0)
  }
  if (isMulti) head.push(0)
  const blockHead = isMulti ? 12 : 8
  const sizes = lists.map(list => list.length * width * 4)
  const tables = parts.length * height * 8
  const total = head.length + tables + sizes.reduce((sum, size) => sum + (size + blockHead) * height, 0)
  const out = new Uint8Array(total)
  const view = new DataView(out.buffer)
  out.set(head)
  let table = head.length
  let at = head.length + tables
  for (const [i, list] of lists.entries())
    for (let y = 0; y < height; y++) {
      view.setBigUint64(table, BigInt(at), true)
      table += 8
      for (const value of isMulti ? [i, y, sizes[i]] : [y, sizes[i]]) {
        view.setInt32(at, value, true)
        at += 4
      }
      for (const [, of] of list) for (let x = 0; x < width; x++, at += 4) view.setFloat32(at, of(x, y), true)
    }
  return out
}
