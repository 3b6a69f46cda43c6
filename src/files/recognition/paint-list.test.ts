import { mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { deltaE00 } from '#core/color/difference'
import { decodeSrgb } from '#core/color/srgb'
import { findSheen, SHEENS } from '#core/material/sheens'
import { createPaintMatcher, renderPatch } from '#core/render/pictures/paint-patch'
import { inspectItem } from '../items/inspect-item'
import { collectSources } from '../reading/collect-sources'
import { parsePaintList } from './paint-list'
import { recognizeDelivery } from './recognize-delivery'

const rgb = (r: number, g: number, b: number) => [r, g, b].map(v => expect.closeTo(decodeSrgb(v / 255), 2))

describe('a paint list', () => {
  it('gives its colours as hex, as red, green and blue, or as L*a*b*', () => {
    expect(parsePaintList('a.csv', 'Series,No,Name,Hex,Finish\nShore,12,Wet slate,#3A4A50,matt\n')).toEqual([
      { series: 'Shore', number: '12', name: 'Wet slate', sheen: 'matt', color: rgb(0x3a, 0x4a, 0x50) },
    ])
    expect(parsePaintList('b.csv', 'name;r;g;b\nChalk;240;236;226\n')?.[0].color).toEqual(rgb(240, 236, 226))
    expect(parsePaintList('c.json', '{"colours":[{"name":"Mid grey","L":53.59,"a":0,"b":0}]}')?.[0].color).toEqual(
      rgb(128, 128, 128),
    )
    expect(parsePaintList('d.json', '[{"name":"Rust","rgb":[140,70,40]}]')?.[0].color).toEqual(rgb(140, 70, 40))
  })

  it('makes one paint of each sheen', () => {
    const paints = parsePaintList('a.csv', 'name,hex,sheens\nChalk,#f0ece2,"Matt, Eggshell / satin"\nRust,#8c4628,\n')!
    expect(paints.map(p => [p.name, p.sheen])).toEqual([
      ['Chalk', 'matt'],
      ['Chalk', 'eggshell'],
      ['Chalk', 'satin'],
      ['Rust', 'matt'],
    ])
  })

  it('is not any other list', () => {
    for (const [path, text] of [
      ['a.csv', 'file,category\nOak.png,Wood\n'],
      ['b.csv', 'name,hex\nChalk,white\n'],
      ['c.csv', 'name,r,g,b\nChalk,300,0,0\n'],
      ['d.json', '{"a":'],
      ['e.txt', 'Chalk #ffffff'],
      ['f.csv', ''],
    ])
      expect([path, parsePaintList(path, text)]).toEqual([path, null])
  })
})

describe('a painted panel', () => {
  it('dull and white it reads nearly white; black it reads its shine where that is wide, and nothing where the trap takes it', () => {
    expect(renderPatch({ baseColor: [1, 1, 1], specularRoughness: 0.8 })[1]).toBeGreaterThan(0.94)
    const black = (specularRoughness: number) => renderPatch({ baseColor: [0, 0, 0], specularRoughness })[1]
    expect(black(0.09)).toBeLessThan(0.003)
    expect(black(0.8)).toBeGreaterThan(0.018)
    expect(black(0.8)).toBeLessThan(0.06)
  })

  for (const { name, roughness } of SHEENS)
    it(`in ${name} reads as specified, within half of what anybody sees`, () => {
      const match = createPaintMatcher(roughness)
      for (const hex of [0xf0ece2, 0xa07858, 0x3a4a50, 0x4f8f7c]) {
        const specified = [16, 8, 0].map(shift => decodeSrgb(((hex >> shift) & 255) / 255)) as [number, number, number]
        const rendered = renderPatch({ baseColor: match(specified), specularRoughness: roughness })
        expect(deltaE00(specified, rendered)).toBeLessThan(0.5)
      }
    })

  it('knows a sheen by many words, and none by others', () => {
    expect(findSheen('Semi-Gloss')?.name).toBe('semi-gloss')
    expect(findSheen('MATTE')?.name).toBe('matt')
    expect(findSheen('velvet')).toBeNull()
  })
})

describe('a delivered paint list', () => {
  let folder: string
  beforeAll(async () => {
    folder = await mkdtemp(join(tmpdir(), 'muscovite-paint-'))
    await writeFile(
      join(folder, 'shore.csv'),
      'series,number,name,hex,finish\nShore,12,Wet slate,#3a4a50,"matt, gloss"\nShore,40,Tar,#0a0a0a,matt\n',
    )
  })
  afterAll(() => rm(folder, { recursive: true, force: true }))

  it('is a family of materials with their facts; one that cannot be as dark as its sheen mirrors is told of', async () => {
    const { items, leftOver } = await recognizeDelivery((await collectSources([folder])).files)
    expect(leftOver).toEqual([])
    expect(items.map(i => i.name)).toEqual(['Shore 12, Wet slate, matt', 'Shore 12, Wet slate, gloss', 'Shore 40, Tar, matt'])
    expect(items[0]).toMatchObject({
      category: 'surfaces.plaster',
      sourceFolder: 'Shore',
      given: { series: 'Shore', number: '12', sheen: 'matt', specifiedColor: '#3a4a50' },
    })
    const [matt, , tar] = await Promise.all(items.map(i => inspectItem(i, i.category)))
    expect(matt.findings).toEqual([])
    expect(matt.facts.colorDeltaE00).toBeLessThan(0.5)
    expect(tar.findings.map(f => f.code)).toEqual(['paintOffColor'])
    expect(tar.facts.colorDeltaE00).toBeGreaterThan(1)
  })
})
