import { describe, expect, it } from 'vitest'
import { FileError } from '../findings/failure'
import { createFloatImage, type FloatImage } from '../image/image'
import { createRandom } from '../math/random'
import { ByteReader } from './byte-reader'
import { parseExr } from './exr'
import { floatToHalf, halfToFloat } from './half'
import { parseHdr, writeHdr } from './hdr'
import { claimedType, resolveType, sniffType } from './sniff'
import { writeExr } from './write-exr'

function noisyImage(width: number, height: number, seed: number): FloatImage {
  const image = createFloatImage(width, height, 3)
  const random = createRandom(seed)
  for (let i = 0; i < image.data.length; i++) image.data[i] = 2 ** random.between(-8, 9)
  return image
}

const isFileError = (run: () => unknown): boolean => {
  try {
    run()
    return false
  } catch (error) {
    return error instanceof FileError
  }
}

const CODECS = [
  { name: 'OpenEXR', write: writeExr, parse: parseExr, tolerance: 2 ** -10 },
  // Eight bits of mantissa shared by three channels: relative to the largest of a pixel.
  { name: 'Radiance', write: (i: FloatImage) => writeHdr(i), parse: parseHdr, tolerance: 1 / 128 },
]

for (const { name, write, parse, tolerance } of CODECS)
  describe(name, () => {
    it('gives back what was written, to its precision', () => {
      for (const [w, h] of [
        [64, 32],
        [8, 4],
        [3, 2],
        [1, 1],
        [40, 17],
      ]) {
        const image = noisyImage(w, h, w * 100 + h)
        const back = parse(write(image))
        expect([back.width, back.height]).toEqual([w, h])
        for (let p = 0; p < w * h; p++) {
          const peak = Math.max(...image.data.subarray(p * 3, p * 3 + 3))
          for (let c = 0; c < 3; c++)
            expect(Math.abs(back.data[p * 3 + c] - image.data[p * 3 + c])).toBeLessThanOrEqual(peak * tolerance)
        }
      }
    })

    it('refuses every truncation with a sentence, and never hangs', () => {
      const bytes = write(noisyImage(32, 16, 4))
      for (let length = 0; length < bytes.length; length += Math.max(1, Math.floor(bytes.length / 90)))
        expect(isFileError(() => parse(bytes.slice(0, length)))).toBe(true)
    })

    it('mutated bytes give a picture or a refusal, nothing else', () => {
      const bytes = write(noisyImage(24, 12, 9))
      const random = createRandom(77)
      for (let k = 0; k < 400; k++) {
        const mutant = bytes.slice()
        for (let n = 0; n < 3; n++) mutant[random.index(mutant.length)] = random.index(256)
        try {
          const image = parse(mutant)
          expect(image.data.length).toBe(image.width * image.height * image.channels)
        } catch (error) {
          expect(error).toBeInstanceOf(FileError)
        }
      }
    })
  })

describe('Radiance', () => {
  it('divides by 256 as the format has it, not by 255', () => {
    const header = '#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 1 +X 1\n'
    const bytes = new Uint8Array([...new TextEncoder().encode(header), 128, 64, 255, 129])
    expect([...parseHdr(bytes).data]).toEqual([1, 0.5, 255 / 128])
  })

  it('refuses a size that the file cannot hold before it takes memory for it', () => {
    const header = '#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 8000 +X 16000\n'
    expect(isFileError(() => parseHdr(new TextEncoder().encode(header)))).toBe(true)
    expect(isFileError(() => parseHdr(new TextEncoder().encode(header.replace('16000', '999999'))))).toBe(true)
  })
})

describe('half floats', () => {
  it('round-trips every one of them', () => {
    for (let h = 0; h < 65536; h++) {
      const f = halfToFloat(h)
      if (Number.isNaN(f)) continue
      expect(floatToHalf(f)).toBe(h)
    }
  })

  it('rounds to nearest, ties to even', () => {
    expect(floatToHalf(1 + 1 / 2048)).toBe(floatToHalf(1))
    expect(floatToHalf(1 + 3 / 2048)).toBe(floatToHalf(1) + 2)
    expect(halfToFloat(floatToHalf(1e9))).toBe(Number.POSITIVE_INFINITY)
  })
})

describe('ByteReader', () => {
  it('never reads past its end', () => {
    const reader = new ByteReader(new Uint8Array([1, 2, 3]))
    reader.u8()
    expect(isFileError(() => reader.take(3))).toBe(true)
    expect(isFileError(() => reader.take(-1))).toBe(true)
    expect(reader.left).toBe(2)
  })
})

describe('sniffing', () => {
  it('goes by the bytes, whatever the name says', () => {
    const png = new Uint8Array([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a])
    expect(resolveType('sky.hdr', png)).toBe('png')
    expect(claimedType('sky.hdr')).toBe('hdr')
    expect(sniffType(new Uint8Array())).toBe('empty')
    expect(sniffType(new TextEncoder().encode('just words'))).toBe('text')
    expect(resolveType('a.obj', new TextEncoder().encode('v 0 0 0'))).toBe('obj')
    expect(sniffType(new Uint8Array([0, 1, 2, 3]))).toBe('unknown')
  })
})
