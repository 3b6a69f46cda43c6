import { describe, expect, it } from 'vitest'
import { kindFallback } from './categories'
import { type KnownOfItem, proposeCategory } from './propose-category'

const known = (words: string, folder = '', facts: KnownOfItem['facts'] = {}): KnownOfItem => ({
  words: words.split(' '),
  folders: folder.split('/').filter(Boolean),
  facts,
})

describe('a category', () => {
  it('goes by the words of a name before those of folders, and by the own folder before those above', () => {
    expect(proposeCategory('material', known('oak plank', 'Fabrics/Wool')).path).toBe('surfaces.timber')
    expect(proposeCategory('material', known('sample 12', 'stone/fabric')).path).toBe('surfaces.textile')
  })

  it('of a surrounding goes by what was measured, whatever its folder is called', () => {
    for (const [setting, path] of [
      ['interior', 'environments.interiors'],
      ['studio', 'environments.studio'],
      ['exterior', 'environments.skies'],
    ])
      expect(proposeCategory('environment', known('lebombo', 'HDRI/Sky', { setting }))).toMatchObject({ path })
    expect(proposeCategory('environment', known('autumn forest', '', { setting: 'unsure' }))).toMatchObject({
      path: kindFallback('environment'),
      confidence: 0,
    })
  })

  it('is not proposed below an even chance', () => {
    const torn = proposeCategory('material', known('concrete brick plaster tile'))
    expect(torn.confidence).toBeLessThan(0.5)
    expect(torn.path).toBe(kindFallback('material'))
    expect(torn.votes).toHaveLength(4)
    expect(proposeCategory('model', known('thing 7', '', { widthM: 0.45, depthM: 0.5, heightM: 0.9 })).path).toBe(
      kindFallback('model'),
    )
  })

  it('is where the maker always sent such things, unless a word says otherwise or there were too few', () => {
    const earlier = [
      { category: 'surfaces.stone', count: 11 },
      { category: 'surfaces.metal', count: 1 },
    ]
    const sent = (words: string, before: KnownOfItem['earlier']) =>
      proposeCategory('material', { ...known(words), earlier: before })
    expect(sent('sample 12', earlier)).toMatchObject({ path: 'surfaces.stone', votes: [{ from: 'maker', what: '11 of 12' }, {}] })
    expect(sent('oak plank', earlier).path).toBe('surfaces.timber')
    expect(sent('sample 12', [{ category: 'surfaces.stone', count: 2 }]).votes).toEqual([])
    expect(sent('sample 12', [{ category: 'lighting', count: 9 }]).votes).toEqual([])
  })

  it('of a luminaire goes by how it shines', () => {
    const shining = { lightDownShare: 1, beamAngleDeg: 20, lightSymmetry: 'rotational', peakGammaDeg: 0 }
    for (const [facts, path] of [
      [shining, 'luminaires.spots'],
      [{ ...shining, beamAngleDeg: 90 }, 'luminaires.downlights'],
      [{ ...shining, lightDownShare: 0.1 }, 'luminaires.indirect'],
      [{ ...shining, beamAngleDeg: 70, lightSymmetry: 'bilateral', peakGammaDeg: 40 }, 'luminaires.washers'],
    ] as const)
      expect(proposeCategory('light', known('report 114', '', facts)).path).toBe(path)
    expect(proposeCategory('light', known('street lantern', '', {})).path).toBe('luminaires.outdoor')
  })

  it('of a model is helped over doubt by its size', () => {
    const facts = { widthM: 2.1, depthM: 0.9, heightM: 0.8 }
    const without = proposeCategory('model', known('bench', 'desk'))
    const measured = proposeCategory('model', known('bench', 'desk', facts))
    expect(without.path).toBe(kindFallback('model'))
    expect(measured.path).toBe('furniture.sofas')
    expect(measured.votes.at(-1)).toEqual({
      category: 'furniture.sofas',
      weight: 0.6,
      from: 'measured',
      what: 'widthM 2.1, heightM 0.8',
    })
  })

  it('is found by the plural of its words, and a colour in a name outweighs no folder', () => {
    expect(proposeCategory('material', known('glazed tile sea green', 'Ceramics')).path).toBe('surfaces.enamel')
  })

  it('of metal is told by its map where the name says nothing', () => {
    expect(proposeCategory('material', known('panel', '', { metalShare: 0.98 }))).toMatchObject({ path: 'surfaces.metal' })
  })
})
