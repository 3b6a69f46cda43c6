import { describe, expect, it } from 'vitest'
import { fromHex } from '../../color/srgb'
import { checkStandard, NO_RULES } from '../../standard/category-rules'
import { resolveWordLines } from '../../standard/word-lines'
import { proposeTags, proposeUses, type TagEvidence } from './propose-tags'
import { SHIPPED_TAG_WORDS, TagWords } from './tag-words'

const NOTHING: TagEvidence = { name: '', folders: [], category: 'surfaces.timber', kind: 'material', palette: [] }
const words = (
  evidence: Partial<TagEvidence>,
  house = [] as { word: string; synonyms: string[] }[],
  vocabulary = SHIPPED_TAG_WORDS,
) => proposeTags({ ...NOTHING, ...evidence }, house, vocabulary).map(t => t.word)

describe('tags that a thing could have', () => {
  it('are read from its name in any of the languages, whole words and compounds, each once', () => {
    expect(words({ name: 'Eichendiele geölt' })).toEqual(['oak', 'plank', 'oiled'])
    expect(words({ name: 'Chêne fumé', folders: ['Quercus'] })).toEqual(['oak', 'smoked'])
    expect(words({ name: 'Stainless steel brushed' })).toContain('brushed')
    // No beginning of a word is taken for the word, and what everything here is, is no tag.
    expect(words({ name: 'Pi Ston Oakland' })).toEqual([])
    expect(words({ name: 'Timber wood furniture' })).toEqual([])
  })

  it('come from folders after the name, and say where from', () => {
    expect(proposeTags({ ...NOTHING, name: 'Board 4', folders: ['Walnut', 'Board'] }, [], SHIPPED_TAG_WORDS)).toEqual([
      { word: 'plank', source: 'name' },
      { word: 'walnut', source: 'folder' },
    ])
  })

  it('are measured of surfaces: colours of a good part, dark and light, matt and polished, metal', () => {
    const red = [{ color: fromHex('#a02418')!, share: 0.8 }]
    expect(words({ palette: red, meanRoughness: 0.8, lrv: 8 })).toEqual(['red', 'dark', 'matt'])
    expect(words({ meanRoughness: 0.1, metalShare: 0.9, lrv: 70 })).toEqual(['light', 'polished', 'metal'])
    expect(words({ meanRoughness: 0.4, metalShare: 0.1, lrv: 30 })).toEqual([])
    expect(words({ palette: red, meanRoughness: 0.8, kind: 'model' })).toEqual([])
  })

  it('are the words of its category alone, where it has some', () => {
    const house = [{ word: 'quercus', synonyms: ['oak', 'Eiche'] }]
    expect(words({ name: 'Eiche hell' }, house)).toEqual(['quercus'])
    expect(words({ name: 'Walnut', meanRoughness: 0.9 }, house)).toEqual([])
    expect(words({ meanRoughness: 0.9 }, [...house, { word: 'dull', synonyms: ['matt'] }])).toEqual(['dull'])
  })
})

describe('what is proposed', () => {
  it('is off no standard, whatever words a category comes to have', () => {
    const tags = words({
      name: 'Eichendiele geölt',
      palette: [{ color: fromHex('#8a6a40')!, share: 1 }],
      meanRoughness: 0.8,
      metalShare: 1,
      lrv: 5,
    })
    expect(tags.length).toBeGreaterThan(5)
    const rules = { ...NO_RULES, tags: [{ word: 'knotty', synonyms: [] }] }
    expect(checkStandard(rules, 'Oak', { tags: [...tags, 'fancy'].join(', ') }, SHIPPED_TAG_WORDS.firsts).strangeTags).toEqual([
      'fancy',
    ])
  })
})

describe('rooms and uses', () => {
  const uses = (evidence: Partial<TagEvidence>, vocabulary = SHIPPED_TAG_WORDS) =>
    proposeUses({ ...NOTHING, ...evidence }, vocabulary)

  it('are read from name and folders, and follow from the place', () => {
    expect(uses({ name: 'Küchenfliese', folders: ['Bathroom tiles'] }).map(u => u.word)).toEqual(['kitchen', 'bathroom'])
    expect(uses({ category: 'surfaces.textile' })).toEqual([{ word: 'upholstery', source: 'category' }])
    expect(uses({ name: 'Garden fern', category: 'vegetation.shrubs' })).toEqual([{ word: 'garden', source: 'name' }])
    expect(uses({ category: 'vegetation.indoor' }).map(u => u.word)).toEqual(['interior'])
    expect(uses({ name: 'Oak' })).toEqual([])
  })
  it('and tags are said in the house’s own lines, whether added or changed, and not in what it took out', () => {
    const ours = new TagWords(
      resolveWordLines([
        { id: 1, replaces: null, words: ['reclaimed', 'Altholz'], isUse: false },
        { id: 2, replaces: null, words: ['sauna', 'steam room'], isUse: true },
        { id: 3, replaces: 'oak', words: ['Eiche', 'oak'], isUse: false },
        { id: 4, replaces: 'oiled', words: [], isUse: false },
        { id: 7, replaces: 'timber', words: ['Holz', 'timber'], isUse: false },
        { id: 5, replaces: 'upholstery', words: ['Bezug', 'upholstery'], isUse: false },
        { id: 6, replaces: 'matt', words: ['stumpf', 'matt'], isUse: false },
      ]),
    )
    expect(words({ name: 'Oak plank oiled timber', folders: ['Altholz'], meanRoughness: 0.9 }, [], ours)).toEqual([
      'Eiche',
      'plank',
      'reclaimed',
      'stumpf',
    ])
    expect(uses({ name: 'Bench, steam room' }, ours)).toEqual([{ word: 'sauna', source: 'name' }])
    expect(uses({ category: 'surfaces.textile' }, ours)).toEqual([{ word: 'Bezug', source: 'category' }])
    expect(words({ name: 'Sauna bench' }, [], ours)).toEqual(['bench'])
    const rules = { ...NO_RULES, tags: [{ word: 'knotty', synonyms: [] }] }
    expect(checkStandard(rules, 'Oak', { tags: 'reclaimed, Eiche, oiled' }, ours.firsts).strangeTags).toEqual(['oiled'])
  })
})
