import { describe, expect, it } from 'vitest'
import { cleanName, formatName, type NamePart, parseNamePattern } from './name-pattern'

const partsOf = (text: string): NamePart[] => {
  const parsed = parseNamePattern(text)
  if ('problem' in parsed) throw new Error(parsed.problem)
  return parsed.parts
}
const name = (pattern: string, facts: Record<string, string | number>) => formatName(partsOf(pattern), facts)

describe('a name pattern', () => {
  it('writes facts in their case, between words of its own', () => {
    expect(name('{series} {number}, {name:sentence}', { series: 'HL', number: 12, name: 'WARM chalk' })).toEqual({
      name: 'HL 12, Warm chalk',
      missing: [],
    })
    expect(name('{maker:upper} {name:title}', { maker: 'Vale', name: 'oak plank' }).name).toBe('VALE Oak Plank')
  })

  it('leaves an option out when a fact in it is missing, and closes the gap', () => {
    const plant = '{botanicalName} [({commonName:lower})]'
    expect(name(plant, { botanicalName: 'Betula pendula', commonName: 'Silver Birch' }).name).toBe(
      'Betula pendula (silver birch)',
    )
    expect(name(plant, { botanicalName: 'Betula pendula' }).name).toBe('Betula pendula')
    expect(name('[{series} ]{name}[, {sheen}]', { name: 'Chalk', sheen: '' }).name).toBe('Chalk')
  })

  it('gives no name while a fact it needs is missing, and says which', () => {
    expect(name('{botanicalName} {height}', { height: '' })).toEqual({ name: null, missing: ['botanicalName', 'height'] })
  })

  it.each([
    ['', 'at least one fact'],
    ['only words', 'at least one fact'],
    ['{name', 'no } after it'],
    ['name}', 'no { before it'],
    ['{na me}', 'is no fact'],
    ['{name:big}', 'big is no case'],
    ['[{name}', 'no ] after it'],
    ['{name}]', 'no [ before it'],
    ['[[{name}]]', 'inside another'],
    [`{name}${'x'.repeat(300)}`, 'at most 200'],
  ])('%j is refused with a sentence', (text, sentence) => {
    const parsed = parseNamePattern(text)
    expect('problem' in parsed && parsed.problem).toContain(sentence)
  })

  it('gives again the name that it gave: applied twice it changes nothing', () => {
    for (const pattern of ['{name}', '{name:sentence}', '{name:title}', '{name} [({commonName})]'])
      for (const start of ['OAK_plank_2k', 'oak plank', 'Oak (2)']) {
        const once = formatName(partsOf(pattern), { name: cleanName(start) }).name!
        expect(formatName(partsOf(pattern), { name: cleanName(once) }).name).toBe(once)
      }
  })
})

describe('the clutter of a file name', () => {
  it.each([
    ['Oak_plank_natural_2k', 'Oak plank natural'],
    ['chair_final_v3.glb', 'chair'],
    ['Sky (2)', 'Sky'],
    ['2k', '2k'],
    ['Tile 60 x 60', 'Tile 60 x 60'],
  ])('%s is %s', (given, expected) => expect(cleanName(given)).toBe(expected))
})
