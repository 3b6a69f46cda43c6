/**
 * One block of BPTC colour and alpha.
 * Source: Khronos Data Format Specification 1.3, section 20.1, with its tables of modes, partitions, anchors and weights.
 */

interface Mode {
  subsets: number
  partitionBits: number
  rotationBits: number
  /** One bit that says which of the two index sets is the colour's. */
  selectionBits: number
  colorBits: number
  alphaBits: number
  /** A lowest bit for each end of each subset, or one for both its ends. */
  lowBit: 'none' | 'each' | 'shared'
  indexBits: number
  secondBits: number
}
const mode = (
  subsets: number,
  partitionBits: number,
  rotationBits: number,
  selectionBits: number,
  colorBits: number,
  alphaBits: number,
  lowBit: Mode['lowBit'],
  indexBits: number,
  secondBits: number,
): Mode => ({ subsets, partitionBits, rotationBits, selectionBits, colorBits, alphaBits, lowBit, indexBits, secondBits })

const MODES: readonly Mode[] = [
  mode(3, 4, 0, 0, 4, 0, 'each', 3, 0),
  mode(2, 6, 0, 0, 6, 0, 'shared', 3, 0),
  mode(3, 6, 0, 0, 5, 0, 'none', 2, 0),
  mode(2, 6, 0, 0, 7, 0, 'each', 2, 0),
  mode(1, 0, 2, 1, 5, 6, 'none', 2, 3),
  mode(1, 0, 2, 0, 7, 8, 'none', 2, 2),
  mode(1, 0, 0, 0, 7, 7, 'each', 4, 0),
  mode(2, 6, 0, 0, 5, 5, 'each', 2, 0),
]

/** Two subsets: a bit for each texel, the first in the lowest. */
const TWO = [
  0xcccc, 0x8888, 0xeeee, 0xecc8, 0xc880, 0xfeec, 0xfec8, 0xec80, 0xc800, 0xffec, 0xfe80, 0xe800, 0xffe8, 0xff00, 0xfff0, 0xf000,
  0xf710, 0x008e, 0x7100, 0x08ce, 0x008c, 0x7310, 0x3100, 0x8cce, 0x088c, 0x3110, 0x6666, 0x366c, 0x17e8, 0x0ff0, 0x718e, 0x399c,
  0xaaaa, 0xf0f0, 0x5a5a, 0x33cc, 0x3c3c, 0x55aa, 0x9696, 0xa55a, 0x73ce, 0x13c8, 0x324c, 0x3bdc, 0x6996, 0xc33c, 0x9966, 0x0660,
  0x0272, 0x04e4, 0x4e40, 0x2720, 0xc936, 0x936c, 0x39c6, 0x639c, 0x9336, 0x9cc6, 0x817e, 0xe718, 0xccf0, 0x0fcc, 0x7744, 0xee22,
]
/** Three subsets: two bits for each texel. */
const THREE = [
  0xaa685050, 0x6a5a5040, 0x5a5a4200, 0x5450a0a8, 0xa5a50000, 0xa0a05050, 0x5555a0a0, 0x5a5a5050, 0xaa550000, 0xaa555500,
  0xaaaa5500, 0x90909090, 0x94949494, 0xa4a4a4a4, 0xa9a59450, 0x2a0a4250, 0xa5945040, 0x0a425054, 0xa5a5a500, 0x55a0a0a0,
  0xa8a85454, 0x6a6a4040, 0xa4a45000, 0x1a1a0500, 0x0050a4a4, 0xaaa59090, 0x14696914, 0x69691400, 0xa08585a0, 0xaa821414,
  0x50a4a450, 0x6a5a0200, 0xa9a58000, 0x5090a0a8, 0xa8a09050, 0x24242424, 0x00aa5500, 0x24924924, 0x24499224, 0x50a50a50,
  0x500aa550, 0xaaaa4444, 0x66660000, 0xa5a0a5a0, 0x50a050a0, 0x69286928, 0x44aaaa44, 0x66666600, 0xaa444444, 0x54a854a8,
  0x95809580, 0x96969600, 0xa85454a8, 0x80959580, 0xaa141414, 0x96960000, 0xaaaa1414, 0xa05050a0, 0xa0a5a5a0, 0x96000000,
  0x40804080, 0xa9a8a9a8, 0xaaaaaa44, 0x2a4a5254,
]
/** The texel of the second of two subsets whose index has a bit less. */
const ANCHOR_OF_TWO = [
  15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 2, 8, 2, 2, 8, 8, 15, 2, 8, 2, 2, 8, 8, 2, 2, 15, 15, 6, 8,
  2, 8, 15, 15, 2, 8, 2, 2, 2, 15, 15, 6, 6, 2, 6, 8, 15, 15, 2, 2, 15, 15, 15, 15, 15, 2, 2, 15,
]
const ANCHOR_OF_THREE = [
  [
    3, 3, 15, 15, 8, 3, 15, 15, 8, 8, 6, 6, 6, 5, 3, 3, 3, 3, 8, 15, 3, 3, 6, 10, 5, 8, 8, 6, 8, 5, 15, 15, 8, 15, 3, 5, 6, 10, 8,
    15, 15, 3, 15, 5, 15, 15, 15, 15, 3, 15, 5, 5, 5, 8, 5, 10, 5, 10, 8, 13, 15, 12, 3, 3,
  ],
  [
    15, 8, 8, 3, 15, 15, 3, 8, 15, 15, 15, 15, 15, 15, 15, 8, 15, 8, 15, 3, 15, 8, 15, 8, 3, 15, 6, 10, 15, 15, 10, 8, 15, 3, 15,
    10, 10, 8, 9, 10, 6, 15, 8, 15, 3, 6, 6, 8, 15, 3, 15, 15, 15, 15, 15, 15, 15, 15, 15, 15, 3, 15, 15, 8,
  ],
]
/** Named together, so that they can be held against each other. */
export const BC7_TABLES = { two: TWO, three: THREE, anchorOfTwo: ANCHOR_OF_TWO, anchorOfThree: ANCHOR_OF_THREE }

const WEIGHTS: Record<number, readonly number[]> = {
  2: [0, 21, 43, 64],
  3: [0, 9, 18, 27, 37, 46, 55, 64],
  4: [0, 4, 9, 13, 17, 21, 26, 30, 34, 38, 43, 47, 51, 55, 60, 64],
}

/** A damaged block is transparent black, as the format asks. @param dst 16 texels of RGBA, row by row */
export function decodeBc7Block(data: Uint8Array, at: number, dst: Uint8Array): void {
  let bit = 0
  const take = (count: number): number => {
    let value = 0
    for (let i = 0; i < count; i++, bit++) value |= ((data[at + (bit >> 3)] >> (bit & 7)) & 1) << i
    return value
  }
  let number = 0
  while (number < 8 && take(1) === 0) number++
  const m = MODES[number]
  if (!m) {
    dst.fill(0)
    return
  }
  const partition = take(m.partitionBits)
  const rotation = take(m.rotationBits)
  const selection = take(m.selectionBits)
  const ends = readEnds(m, take)
  const subsetOf = (texel: number): number =>
    m.subsets === 1 ? 0 : m.subsets === 2 ? (TWO[partition] >> texel) & 1 : (THREE[partition] >>> (texel * 2)) & 3
  const isAnchor = (texel: number): boolean =>
    texel === 0 ||
    (m.subsets === 2 && texel === ANCHOR_OF_TWO[partition]) ||
    (m.subsets === 3 && (texel === ANCHOR_OF_THREE[0][partition] || texel === ANCHOR_OF_THREE[1][partition]))
  const first = Array.from({ length: 16 }, (_, texel) => take(m.indexBits - (isAnchor(texel) ? 1 : 0)))
  const second = m.secondBits > 0 ? Array.from({ length: 16 }, (_, texel) => take(m.secondBits - (texel === 0 ? 1 : 0))) : null
  for (let texel = 0; texel < 16; texel++) {
    const subset = subsetOf(texel)
    const [low, high] = [ends[subset * 2], ends[subset * 2 + 1]]
    const firstWeight = WEIGHTS[m.indexBits][first[texel]]
    const secondWeight = second ? WEIGHTS[m.secondBits][second[texel]] : firstWeight
    const [color, alpha] = selection === 1 ? [secondWeight, firstWeight] : [firstWeight, secondWeight]
    for (let c = 0; c < 4; c++) {
      const weight = c === 3 ? alpha : color
      dst[texel * 4 + c] = ((64 - weight) * low[c] + weight * high[c] + 32) >> 6
    }
    if (rotation > 0) {
      const swapped = dst[texel * 4 + rotation - 1]
      dst[texel * 4 + rotation - 1] = dst[texel * 4 + 3]
      dst[texel * 4 + 3] = swapped
    }
  }
}

/** The two ends of each subset as RGBA of 8 bits. */
function readEnds(m: Mode, take: (count: number) => number): number[][] {
  const count = m.subsets * 2
  const ends = Array.from({ length: count }, () => [0, 0, 0, 255])
  for (let c = 0; c < 3; c++) for (const end of ends) end[c] = take(m.colorBits)
  if (m.alphaBits > 0) for (const end of ends) end[3] = take(m.alphaBits)
  const low =
    m.lowBit === 'each'
      ? ends.map(() => take(1))
      : m.lowBit === 'shared'
        ? Array.from({ length: m.subsets }, () => take(1)).flatMap(b => [b, b])
        : null
  const widen = (value: number, bits: number, i: number): number => {
    const all = low ? bits + 1 : bits
    const v = low ? (value << 1) | low[i] : value
    const top = v << (8 - all)
    return top | (top >> all)
  }
  return ends.map((end, i) => [
    widen(end[0], m.colorBits, i),
    widen(end[1], m.colorBits, i),
    widen(end[2], m.colorBits, i),
    m.alphaBits > 0 ? widen(end[3], m.alphaBits, i) : 255,
  ])
}
