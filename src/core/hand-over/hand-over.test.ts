import { describe, expect, it } from 'vitest'
import type { Image } from '../image/image'
import { invertValues, joinPlanes, pickChannel, toDepth, turnGreen } from './convert-map'
import { deliveredName } from './delivered-name'
import { findRefusal } from './licence'
import { findPatternProblem, HOUSE_PROFILE, sizeFor } from './profile'

const picture = (channels: number, data: number[], Kind: typeof Uint8Array | typeof Uint16Array = Uint8Array): Image => ({
  width: data.length / channels,
  height: 1,
  channels,
  data: Kind.from(data),
})

describe('maps are converted', () => {
  it('green turns and nothing else does; twice is as before', () => {
    const normal = picture(3, [10, 20, 30, 0, 255, 7])
    const turned = turnGreen(normal)
    expect([...turned.data]).toEqual([10, 235, 30, 0, 0, 7])
    expect(turnGreen(turned).data).toEqual(normal.data)
  })

  it('values are inverted at their own depth, alpha is not', () => {
    expect([...invertValues(picture(2, [10, 200])).data]).toEqual([245, 200])
    expect([...invertValues(picture(1, [0, 65535, 300], Uint16Array)).data]).toEqual([65535, 0, 65235])
  })

  it('a channel is taken out, the last where there are not so many', () => {
    const rgb = picture(3, [1, 2, 3, 4, 5, 6])
    expect([...pickChannel(rgb, 1).data]).toEqual([2, 5])
    expect([...pickChannel(rgb, 3).data]).toEqual([3, 6])
  })

  it('planes of other sizes and depths are joined at the largest and the deepest', () => {
    const small = picture(1, [255])
    const deep: Image = { width: 2, height: 2, channels: 1, data: Uint16Array.of(0, 100, 65535, 7) }
    const joined = joinPlanes([0.5, deep, small])
    expect(joined).toMatchObject({ width: 2, height: 2, channels: 3 })
    expect([...joined.data]).toEqual([32768, 0, 65535, 32768, 100, 65535, 32768, 65535, 65535, 32768, 7, 65535])
    expect(() => joinPlanes([1, 1, 1])).toThrow(RangeError)
  })

  it('codes of 8 bits become 16 and are the same again', () => {
    const bytes = picture(1, [0, 1, 128, 255])
    expect([...toDepth(bytes, 16).data]).toEqual([0, 257, 32896, 65535])
    expect(toDepth(toDepth(bytes, 16), 8).data).toEqual(bytes.data)
    const floats: Image = { width: 4, height: 1, channels: 1, data: Float32Array.of(-1, 0.5, 2, Number.NaN) }
    expect([...toDepth(floats, 8).data]).toEqual([0, 128, 255, 0])
  })
})

describe('a profile', () => {
  it('says the size of what is nearest', () => {
    const profile = {
      maxSizePx: 2048,
      sizes: [
        { category: 'surfaces', maxSizePx: 1024 },
        { category: 'surfaces.timber', maxSizePx: null },
      ],
    }
    expect(sizeFor(profile, 'surfaces.timber.oak')).toBeNull()
    expect(sizeFor(profile, 'surfaces.stone')).toBe(1024)
    expect(sizeFor(profile, 'surfacesOfMine')).toBe(2048)
  })

  it('takes no pattern by which two files would have one name', () => {
    expect(findPatternProblem(HOUSE_PROFILE.textureName, ['code', 'map'])).toBeNull()
    expect(findPatternProblem('{code} {name}', ['code', 'map'])).toContain('{map}')
    expect(findPatternProblem('{name} [{code}]', ['code'])).toContain('{code}')
    expect(findPatternProblem('{code', ['code'])).toBe('A { has no } after it.')
  })

  it('names files so that every system takes them', () => {
    const facts = { code: 'TIM-0001', name: 'Räuchereiche / geölt', version: 3, category: 'oak', maker: '', map: 'baseColor' }
    expect(deliveredName('{code} {name} v{version} {map}', facts)).toBe('TIM_0001_Rauchereiche_geolt_v3_baseColor')
    expect(deliveredName('{map:upper}-{code:lower}', facts)).toBe('BASECOLOR_tim_0001')
    // The maker is not known: no name is made up.
    expect(deliveredName('{maker} {code} {map}', facts)).toBe('TIM_0001_v3_baseColor')
  })
})

describe('a licence', () => {
  const terms = { wording: 'Ferry only', reach: 'projects', projectIds: [4], until: '2026-12-31' } as const
  const ferry = { id: 4, code: 'FERRY' }
  it('covers what it names, as long as it holds', () => {
    expect(findRefusal(terms, ferry, '2026-12-31')).toBeNull()
    expect(findRefusal(terms, ferry, '2027-01-01')).toContain('ran out after 2026-12-31')
    expect(findRefusal(terms, { id: 5, code: 'NORTH' }, '2026-12-01')).toContain('does not cover NORTH')
    expect(findRefusal(terms, null, '2026-12-01')).toContain('some projects only')
    expect(findRefusal({ ...terms, reach: 'none' }, ferry, '2026-12-01')).toContain('nothing out of the house')
    expect(findRefusal({ ...terms, reach: 'all', until: null }, null, '2026-12-01')).toBeNull()
    expect(findRefusal(null, null, '2026-12-01')).toBeNull()
  })
})
