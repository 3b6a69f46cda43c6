import { describe, expect, it } from 'vitest'
import { compareFacts, compareFiles, weightOf } from './compare-facts'

describe('facts of two versions', () => {
  it('are told where they differ, with the growth of figures, and not where they are the same or of no concern', () => {
    const before = { widthMm: 800, triangles: 2000, maker: 'Oddmere', sourcePath: 'a/b.png', sheen: 'matt', scans: 0 }
    const after = { widthMm: 800.0000001, triangles: 3000, maker: 'Oddmere', sourcePath: 'c/b.png', licence: 'house', scans: 2 }
    expect(compareFacts(before, after)).toEqual([
      { name: 'triangles', before: 2000, after: 3000, growth: 0.5 },
      { name: 'licence', before: null, after: 'house', growth: null },
      { name: 'scans', before: 0, after: 2, growth: null },
      { name: 'sheen', before: 'matt', after: null, growth: null },
    ])
    expect(compareFacts(before, before)).toEqual([])
  })
})

describe('files of two versions', () => {
  const file = (role: string, path: string, hash: string, size = 100) => ({ role, path, hash, size })
  it('are matched by what they are for, whatever they are called now', () => {
    const before = [file('baseColor', 'oak_col.png', 'a'), file('normal', 'oak_n.png', 'b'), file('height', 'oak_h.png', 'c', 40)]
    const after = [
      file('baseColor', 'oak2_col.png', 'z', 160),
      file('normal', 'oak2_n.png', 'b'),
      file('roughness', 'oak2_r.png', 'd', 30),
    ]
    expect(compareFiles(before, after)).toEqual([
      { role: 'baseColor', path: 'oak2_col.png', kind: 'changed', byteGrowth: 60 },
      { role: 'roughness', path: 'oak2_r.png', kind: 'added', byteGrowth: 30 },
      { role: 'height', path: 'oak_h.png', kind: 'gone', byteGrowth: -40 },
    ])
    expect(weightOf(after) - weightOf(before)).toBe(60 + 30 - 40)
  })

  it('of which several are for the same are told apart by their names', () => {
    const before = [file('document', 'a.pdf', 'a'), file('document', 'b.pdf', 'b')]
    expect(compareFiles(before, [file('document', 'a.pdf', 'a'), file('document', 'b.pdf', 'x')])).toEqual([
      { role: 'document', path: 'b.pdf', kind: 'changed', byteGrowth: 0 },
    ])
  })
})
