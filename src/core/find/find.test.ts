import { describe, expect, it } from 'vitest'
import { ciede2000, linearToLab } from '../color/ciede2000'
import { deltaE00 } from '../color/difference'
import { fromHex } from '../color/srgb'
import { createRandom, type Random } from '../math/random'
import type { Vec3 } from '../math/vec3'
import { HOUSE_VOCABULARY } from '../standard/house-vocabulary'
import type { Findable } from './columns/findable'
import { FindIndex } from './find-index'
import { nameColor } from './looks/color-words'
import { BINNINGS, binOf, edgeOf, FIGURE_FACETS } from './query/facets'
import { ANYTHING, type Asker, type FindQuery, isWithin, withAncestors } from './query/find-query'
import { readFigure } from './query/read-figures'
import { suggest } from './suggest'
import { countBits, editDistance, letterBits } from './words/edit-distance'
import { codeWords, hasEveryWord, otherForms, splitWords } from './words/fold-words'
import { Vocabulary } from './words/vocabulary'

const KINDS = ['material', 'model', 'environment']
const NAMES = ['oak', 'walnut', 'harbour', 'linen', 'smoked', 'quarter']
const STATES = ['draft', 'inReview', 'approved', 'withdrawn']
const PLACES = ['surfaces.timber', 'surfaces.timber.boards', 'surfaces.stone', 'furniture.sofas']
const pick = <T>(random: Random, list: readonly T[]): T => list[random.index(list.length)]

function makeItem(random: Random, id: number): Findable {
  return {
    id,
    code: `X-${String(random.index(1e6)).padStart(6, '0')}-${id}`,
    name: `${pick(random, NAMES)} ${pick(random, NAMES)}`,
    terms: {
      kind: [pick(random, KINDS)],
      category: [pick(random, PLACES)],
      state: [pick(random, STATES)],
      library: [pick(random, ['1', '2', '3'])],
      maker: random.next() < 0.8 ? [`Maker ${random.index(5)}`] : [],
      tag: Array.from({ length: random.index(3) }, () => pick(random, ['pale', 'dark', 'wide', 'narrow'])),
    },
    figures: { widthMm: random.next() < 0.7 ? random.between(10, 4000) : undefined },
    palette: [{ color: [random.next(), random.next(), random.next()], share: 1 }],
    look: null,
    places: [],
    otherWords: [],
  }
}
const ASKER: Asker = { libraries: new Set(['1', '2']), sets: { dot: new Map([['1', [3, 5, 8]]]) } }

/** Whether an item is found, said as plainly as can be. */
function isFound(item: Findable, query: FindQuery, skip = ''): boolean {
  if (!ASKER.libraries.has(item.terms.library![0])) return false
  const anyOf = (facet: 'kind' | 'state' | 'maker' | 'tag') =>
    skip === facet || !query.terms[facet]?.length || query.terms[facet].some(v => item.terms[facet]?.includes(v))
  const states = query.terms.state?.length ? anyOf('state') : skip === 'state' || item.terms.state![0] !== 'withdrawn'
  const place =
    skip === 'category' || !query.terms.category?.length || query.terms.category.some(c => isWithin(item.terms.category![0], c))
  const range = query.figures.widthMm
  const width = item.figures.widthMm
  const inRange =
    skip === 'widthMm' ||
    !range ||
    (width !== undefined && width >= (range.low ?? -1) && width <= (range.high ?? Number.POSITIVE_INFINITY))
  const dotted =
    skip === 'dot' ||
    !query.sets.dot?.length ||
    query.sets.dot.some(v => (v === 'none' ? ![3, 5, 8].includes(item.id) : [3, 5, 8].includes(item.id)))
  const words = splitWords(query.words).every(w =>
    splitWords(`${item.name} ${(item.terms.tag ?? []).join(' ')} ${(item.terms.maker ?? []).join(' ')}`).some(h =>
      h.startsWith(w),
    ),
  )
  return states && place && inRange && dotted && words && anyOf('kind') && anyOf('maker') && anyOf('tag')
}

function makeQuery(random: Random): FindQuery {
  const some = <T>(list: readonly T[]): T[] => (random.next() < 0.5 ? [] : [pick(random, list), pick(random, list)])
  return {
    ...ANYTHING,
    words: random.next() < 0.5 ? '' : pick(random, [...NAMES, 'har', 'smo qua', 'oak pale']),
    terms: {
      kind: some(KINDS),
      state: some(STATES),
      category: some(PLACES),
      maker: some(['Maker 1', 'Maker 4']),
      tag: some(['pale', 'wide']),
    },
    figures: random.next() < 0.5 ? {} : { widthMm: { low: random.next() < 0.5 ? null : 500, high: 2000 } },
    sets: random.next() < 0.8 ? {} : { dot: [pick(random, ['1', 'none'])] },
  }
}

describe('the library in memory', () => {
  it('finds and counts what plain counting does, whatever is asked, through changes and removals', () => {
    for (const seed of [1, 2, 3]) {
      const random = createRandom(seed)
      const index = new FindIndex()
      let items = Array.from({ length: 300 }, (_, k) => makeItem(random, k + 1))
      index.putAll(items)
      for (let turn = 0; turn < 40; turn++) {
        // Some go, some come, some change; a slot that was left is used again.
        const gone = pick(random, items).id
        index.removeAll([gone, 1e6 + turn])
        items = items.filter(i => i.id !== gone)
        const changed = makeItem(random, pick(random, items).id)
        const added = makeItem(random, 1000 + turn)
        index.putAll([changed, added])
        items = [...items.filter(i => i.id !== changed.id), changed, added]
        const query = makeQuery(random)
        const view = index.find(query, ASKER)
        const expected = items.filter(i => isFound(i, query))
        expect(view.total).toBe(expected.length)
        expect(new Set(view.ids())).toEqual(new Set(expected.map(i => i.id)))
        if (query.words === '')
          expect(view.ids().map(id => items.find(i => i.id === id)!.code)).toEqual(expected.map(i => i.code).sort())
        const { terms, figures, sets } = view.facets()
        for (const facet of ['kind', 'state', 'maker', 'tag'] as const) {
          const counts = new Map<string, number>()
          for (const item of items.filter(i => isFound(i, query, facet)))
            for (const value of new Set(item.terms[facet] ?? [])) counts.set(value, (counts.get(value) ?? 0) + 1)
          expect(new Map([...terms[facet]!].sort())).toEqual(new Map([...counts].sort()))
          const isWanted = (value: string) => /[1-4e]$/.test(value)
          expect(new Map([...view.countSome(facet, isWanted)].sort())).toEqual(
            new Map([...counts].filter(([value]) => isWanted(value)).sort()),
          )
        }
        const held = NAMES.map(word => ({ word, count: view.countWord(word) })).filter(w => w.count > 0)
        held.sort((a, b) => b.count - a.count || (a.word < b.word ? -1 : 1))
        expect(view.countCommonest(NAMES, 3)).toEqual(held.slice(0, 3))
        const widths = items.filter(i => isFound(i, query, 'widthMm'))
        const known = figures.widthMm?.counts.reduce((a, b) => a + b, 0) ?? 0
        expect(known).toBe(widths.filter(i => i.figures.widthMm !== undefined).length)
        const dotted = items.filter(i => isFound(i, query, 'dot') && [3, 5, 8].includes(i.id)).length
        expect(sets.dot.get('1') ?? 0).toBe(dotted)
        // What stands in the way: each condition alone.
        if (view.total === 0) {
          const drop = view.drops().find(d => d.key === 'kind')
          expect(drop?.count ?? 0).toBe(items.filter(i => isFound(i, query, 'kind') && !isFound(i, query)).length)
          for (const id of view.nearest(5))
            expect(ASKER.libraries.has(items.find(i => i.id === id)!.terms.library![0])).toBe(true)
        }
      }
    }
  })

  it('says of each how near it comes to a colour, and how much of it does', () => {
    const index = new FindIndex()
    const random = createRandom(4)
    const colors = (hexes: [string, number][]) => hexes.map(([hex, share]) => ({ color: fromHex(hex)!, share }))
    index.putAll([
      {
        ...makeItem(random, 1),
        palette: colors([
          ['#a03020', 0.3],
          ['#f0f0f0', 0.7],
        ]),
      },
      { ...makeItem(random, 2), palette: [] },
    ])
    const { colors: column } = index.columns
    const red = fromHex('#a03424')!
    const near = column.nearness(index.columns.slotOf(1)!, red, 8)!
    expect(near.deltaE).toBeCloseTo(deltaE00(red, fromHex('#a03020')!), 3)
    expect(near.share).toBeCloseTo(0.3, 6)
    expect(column.nearness(index.columns.slotOf(1)!, red, 0.1)!.share).toBe(0)
    expect(column.nearness(index.columns.slotOf(2)!, red, 8)).toBeNull()
  })

  it('shows nothing of a library that the asker does not see, in no count, word, suggestion or nearest item', () => {
    const random = createRandom(9)
    const index = new FindIndex()
    index.setVocabulary(HOUSE_VOCABULARY)
    const open = Array.from({ length: 60 }, (_, k) => ({
      ...makeItem(random, k + 1),
      terms: { ...makeItem(random, 0).terms, library: ['1'] },
    }))
    const secret = Array.from({ length: 60 }, (_, k): Findable => {
      const item = makeItem(random, 1000 + k)
      return {
        ...item,
        name: `Xylograph ${item.name}`,
        terms: { ...item.terms, library: ['3'], maker: ['Xylo works'], tag: ['xylic'] },
      }
    })
    index.putAll([...open, ...secret])
    const outside: Asker = { libraries: new Set(['1', '2']), sets: {} }
    const inside: Asker = { libraries: new Set(['1', '2', '3']), sets: {} }
    for (const words of ['', 'xylo', 'xilograph', 'xylic oak', 'oak']) {
      const query = { ...ANYTHING, words }
      const text = (asker: Asker) => {
        const view = index.find(query, asker)
        const { terms } = view.facets()
        const suggestions = suggest(index, query, asker, {})
        return JSON.stringify([
          view.ids(),
          view.nearest(20),
          view.drops(),
          view.takenFor(),
          [...Object.values(terms)].map(m => [...m!]),
          suggestions,
        ])
      }
      // What was typed is repeated, and no more.
      expect(text(outside).replaceAll(/xyl[a-z]*(?=[ "])/g, typed => (words.includes(typed) ? '' : typed))).not.toMatch(
        /xyl|\b10[0-5]\d\b/i,
      )
      if (words.startsWith('x')) expect(text(inside)).toMatch(/\b10[0-5]\d\b/)
    }
  })

  it('takes a word that is nothing for what it may be a mistake for, and leaves one that is something', () => {
    const index = new FindIndex()
    index.setVocabulary(HOUSE_VOCABULARY)
    const item = (id: number, name: string): Findable => ({
      ...makeItem(createRandom(id), id),
      name,
      terms: { library: ['1'], state: ['approved'] },
    })
    index.putAll([item(1, 'Walnut board'), item(2, 'Walrus tusk'), item(3, 'Oak bench')])
    const find = (words: string) => index.find({ ...ANYTHING, words }, ASKER)
    expect([find('wlanut').ids(), find('wlanut').takenFor()]).toEqual([[1], [{ typed: 'wlanut', meant: 'walnut' }]])
    expect([find('walrus').ids(), find('walrus').takenFor()]).toEqual([[2], []])
    expect(find('eichenbank').ids()).toEqual([3])
    expect(find('Sitzbank aus Eiche').unfoundWords()).toEqual(['aus'])
    expect(find('oka').ids()).toEqual([])
  })
})

describe('words', () => {
  it('are folded, cut and bent as people write them', () => {
    expect(splitWords('Ébène, GROSSE Straße & Ærø-1')).toEqual(['ebene', 'grosse', 'strasse', 'aero', '1'])
    expect(hasEveryWord('Ébène sombre WOO-0012', 'woo EBENE')).toBe(true)
    expect(hasEveryWord('Ébène sombre', 'ebene clair')).toBe(false)
    expect(hasEveryWord('Ébène', '')).toBe(true)
    expect(codeWords('KET-TIM-0142')).toEqual(['ket', 'tim', '0142', 'kettim0142', '142', 'kettim142'])
    expect(otherForms('chairs')).toContain('chair')
    expect(otherForms('berries')).toContain('berry')
    expect(otherForms('glass')).not.toContain('glas')
  })

  it('differ by so many edits, as the plain recurrence says, and never by more letters than that allows', () => {
    expect([editDistance('timbre', 'timber', 2), editDistance('terazo', 'terrazzo', 2), editDistance('oak', 'ash', 2)]).toEqual([
      1, 2, 3,
    ])
    const random = createRandom(2)
    for (let k = 0; k < 400; k++) {
      const word = Array.from({ length: 4 + random.index(5) }, () => 'abcde'[random.index(5)]).join('')
      const letters = [...word]
      const edits = random.index(3)
      for (let e = 0; e < edits; e++) letters.splice(random.index(letters.length), random.index(2), 'abcde'[random.index(5)])
      const other = letters.join('')
      const distance = editDistance(word, other, 9)
      expect(distance).toBeLessThanOrEqual(edits)
      expect(editDistance(other, word, 9)).toBe(distance)
      expect(countBits(letterBits(word) ^ letterBits(other))).toBeLessThanOrEqual(2 * distance)
    }
  })

  it('of several languages and several words mean one thing', () => {
    const vocabulary = new Vocabulary([
      ['stainless steel', 'Edelstahl', 'inox'],
      ['steel', 'Stahl'],
      ['oak', 'Eiche'],
    ])
    expect(vocabulary.expand(['stainless', 'ste'], 0)).toMatchObject({ length: 2 })
    expect(vocabulary.expand(['stahl'], 0)?.others).toContainEqual(['steel'])
    expect(vocabulary.expand(['eich'], 0)?.others).toContainEqual(['oak'])
    expect(vocabulary.expand(['eich', 'x'], 0)).toBeNull()
    expect(vocabulary.takeApart('eichenstahl')).toEqual(['eiche', 'stahl'])
    expect(vocabulary.takeApart('xyzstahl')).toBeNull()
  })

  it('say bounds', () => {
    expect(readFigure('sofa under 2.2 m')).toEqual({ facet: 'widthMm', low: null, high: 2200, rest: 'sofa', said: 'under 2.2 m' })
    expect(readFigure('Regal über 90 cm hoch')).toMatchObject({ facet: 'heightMm', low: 900, high: null, rest: 'Regal' })
    expect(readFigure('tree over 50 k triangles')).toMatchObject({ facet: 'triangles', low: 50_000 })
    expect(readFigure('underlay 3 m')).toBeNull()
    expect(readFigure('under construction')).toBeNull()
  })
})

describe('colours', () => {
  it('are as far apart as another implementation says', () => {
    const random = createRandom(7)
    for (let k = 0; k < 3000; k++) {
      const [a, b] = [0, 1].map((): Vec3 => [random.next() ** 2, random.next() ** 2, random.next() ** 2])
      expect(Math.abs(ciede2000(...linearToLab(...a), ...linearToLab(...b)) - deltaE00(a, b))).toBeLessThan(2e-3)
    }
    // Pairs 1, 7, 17 and 25 of Sharma, Wu & Dalal 2005, table 1.
    for (const [l1, a1, b1, l2, a2, b2, expected] of [
      [50, 2.6772, -79.7751, 50, 0, -82.7485, 2.0425],
      [50, 0, 0, 50, -1, 2, 2.3669],
      [50, 2.5, 0, 50, 0, -2.5, 4.3065],
      [60.2574, -34.0099, 36.2677, 60.4626, -34.1751, 39.4387, 1.2644],
    ])
      expect(ciede2000(l1, a1, b1, l2, a2, b2)).toBeCloseTo(expected, 3)
  })

  it('are called what people call them', () => {
    const named = {
      '#ffffff': 'white',
      '#111111': 'black',
      '#808080': 'grey',
      '#c01818': 'red',
      '#204a9a': 'blue',
      '#2f7a3a': 'green',
      '#6b452c': 'brown',
      '#dcc9a3': 'beige',
      '#e8c020': 'yellow',
    }
    for (const [hex, name] of Object.entries(named)) expect([hex, nameColor(fromHex(hex)!)]).toEqual([hex, name])
  })

  it('rank a wall of it before a pattern with some of it', () => {
    const index = new FindIndex()
    const make = (id: number, palette: Findable['palette']): Findable => ({
      ...makeItem(createRandom(id), id),
      palette,
      terms: { library: ['1'], state: ['approved'] },
    })
    const [red, white] = [fromHex('#b01f24')!, fromHex('#f2f0ea')!]
    index.putAll([
      make(1, [
        { color: white, share: 0.8 },
        { color: red, share: 0.2 },
      ]),
      make(2, [{ color: red, share: 1 }]),
      make(3, [
        { color: white, share: 0.98 },
        { color: red, share: 0.02 },
      ]),
    ])
    const find = (...colors: Vec3[]) =>
      index.find({ ...ANYTHING, colors: colors.map(color => ({ color, tolerance: 6 })) }, ASKER).ids()
    expect(find(red)).toEqual([2, 1])
    expect(find(red, white)).toEqual([1])
  })
})

describe('figures', () => {
  it('fall into bins whose edges hold them', () => {
    const random = createRandom(3)
    for (const facet of FIGURE_FACETS) {
      const binning = BINNINGS[facet]
      if (!binning) continue
      for (let k = 0; k < 50; k++) {
        const value = random.between(binning.low, binning.high)
        const bin = binOf(binning, value)
        expect(edgeOf(binning, bin)).toBeLessThanOrEqual(value * 1.000001 + 1e-9)
        expect(edgeOf(binning, bin + 1)).toBeGreaterThanOrEqual(value * 0.999999 - 1e-9)
      }
    }
  })

  it('of categories add up along the way', () => {
    expect(
      withAncestors(
        new Map([
          ['a.b', 2],
          ['a.b.c', 3],
          ['a', 1],
          ['ab', 5],
        ]),
      ),
    ).toEqual(
      new Map([
        ['a', 6],
        ['a.b', 5],
        ['a.b.c', 3],
        ['ab', 5],
      ]),
    )
  })
})
