import { mkdir, mkdtemp, rm, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { collectSources } from '../reading/collect-sources'
import { chooseIndex, parseDeliveryIndex } from './delivery-index'
import { recognizeDelivery } from './recognize-delivery'

const entriesOf = (path: string, text: string) => parseDeliveryIndex(path, text)?.entries

describe('a list that came with a delivery', () => {
  it('is a table with a heading, whatever its columns are called and separated by', () => {
    expect(
      entriesOf(
        'a.csv',
        '\uFEFFFile Name;Category;Keywords;Width (cm)\nOak_A.png;Wood/Floors;"oak, pale";60\nTile_B.png;Ceramic;;\n',
      ),
    ).toEqual([
      { path: 'Oak_A.png', name: '', sourceFolder: 'Wood / Floors', tags: ['oak', 'pale'], widthMm: 600 },
      { path: 'Tile_B.png', name: '', sourceFolder: 'Ceramic', tags: [], widthMm: null },
    ])
    expect(entriesOf('b.tsv', 'name\tcategory\tsubcategory\tsize\nOak A\tWood\tFloors\t1.2 m\n')).toMatchObject([
      { name: 'Oak A', sourceFolder: 'Wood / Floors', widthMm: 1200 },
    ])
  })

  it('is JSON: a list, a wrapped list, or a tree whose branches are the source folders', () => {
    expect(
      entriesOf('a.json', '{"items":[{"path":"a/oak.glb","category":["Furniture","Chairs"],"tags":["oak"]}]}'),
    ).toMatchObject([{ path: 'a/oak.glb', sourceFolder: 'Furniture / Chairs', tags: ['oak'] }])
    expect(entriesOf('b.json', '{"categories":{"Wood":{"Floors":["oak_a","oak_b"]},"Stone":[{"name":"slate"}]}}')).toMatchObject([
      { path: 'oak_a', sourceFolder: 'Wood / Floors' },
      { path: 'oak_b', sourceFolder: 'Wood / Floors' },
      { name: 'slate', sourceFolder: 'Stone' },
    ])
  })

  it('is plain lines of paths', () => {
    expect(
      entriesOf('list.txt', '# all\nWood\\Floors\\oak_diff.png\nWood\\Floors\\oak_nrm.png\nStone/slate.png\n'),
    ).toMatchObject([{ sourceFolder: 'Wood / Floors' }, { sourceFolder: 'Wood / Floors' }, { sourceFolder: 'Stone' }])
  })

  it('is not a letter, a licence, a settings file or broken JSON', () => {
    for (const [path, text] of [
      ['read me.txt', 'Thank you for buying.\nSee www.example/terms for more.\n'],
      ['a.json', '{"version": 3, "settings": {"gamma": 2.2}}'],
      ['b.json', '{"items": ['],
      ['c.csv', 'just one column\nand a line\n'],
      ['d.csv', ''],
      ['e.csv', 'x,y\n1,2\n'],
    ])
      expect([path, parseDeliveryIndex(path, text)]).toEqual([path, null])
  })

  it('takes no width without a unit', () => {
    const width = (head: string, value: string) => entriesOf('w.csv', `name,category,${head}\nA,B,${value}\n`)?.[0].widthMm
    expect(width('width', '60')).toBeNull()
    expect(width('width mm', '600')).toBe(600)
    expect(width('size', '60 x 60 cm')).toBe(600)
    expect(width('width', '24 in')).toBeCloseTo(609.6)
    expect(width('width', 'wide')).toBeNull()
  })
})

describe('of several lists', () => {
  const list = (path: string) => ({ path, entries: [] })
  const matches: Record<string, number> = {
    'list_2025.csv': 10,
    'list_2026.csv': 10,
    'list_2026_short.csv': 4,
    'list_backup.csv': 12,
    'other.csv': 0,
  }
  it('the newest that is whole counts; a copy kept aside does not, nor one of another delivery', () => {
    const { chosen, verdicts } = chooseIndex(Object.keys(matches).map(list), index => matches[index.path])
    expect(chosen?.path).toBe('list_2026.csv')
    expect(Object.fromEntries(verdicts)).toEqual({
      'list_2025.csv': 'older',
      'list_2026.csv': 'used',
      'list_2026_short.csv': 'older',
      'list_backup.csv': 'backup',
      'other.csv': 'foreign',
    })
  })
  it('where only a copy names anything, it counts', () => {
    expect(chooseIndex([list('list (1).csv')], () => 3).chosen?.path).toBe('list (1).csv')
    expect(chooseIndex([list('list.csv')], () => 0).chosen).toBeNull()
  })
})

describe('a delivery with lists', () => {
  let folder: string
  beforeAll(async () => {
    folder = await mkdtemp(join(tmpdir(), 'muscovite-index-'))
    const put = async (path: string, bytes: Uint8Array | string) => {
      await mkdir(dirname(join(folder, path)), { recursive: true })
      await writeFile(join(folder, path), bytes)
    }
    const picture = await sharp({ create: { width: 8, height: 8, channels: 3, background: '#a87' } })
      .png()
      .toBuffer()
    for (const name of ['Oak_A', 'Oak_B', 'Slate_C']) await put(`Autumn/maps/${name}/${name}_basecolor.png`, picture)
    await put('Autumn/loose/Brick_D_basecolor.png', picture)
    await put(
      'Autumn/index.csv',
      'file,category,tags,width mm\nmaps/Oak_A/Oak_A_basecolor.png,Wood / Floors,oak,600\nmaps/Oak_B,Wood / Floors,,\n',
    )
    await put(
      'Autumn/index_backup.csv',
      'file,category,tags\nmaps/Oak_A/Oak_A_basecolor.png,Old wood,\nmaps/Oak_B,Old wood,\nmaps/Slate_C,Old stone,\n',
    )
    await put('Autumn/read me.txt', 'Thank you.')
  })
  afterAll(() => rm(folder, { recursive: true, force: true }))

  it('says of each item where it lies: by the list, else by its folders without its own', async () => {
    const { items, leftOver } = await recognizeDelivery((await collectSources([folder])).files)
    expect(Object.fromEntries(items.map(i => [i.name, [i.sourceFolder, i.tags, i.widthMm]]))).toEqual({
      'Oak a': ['Wood / Floors', ['oak'], 600],
      'Oak b': ['Wood / Floors', [], null],
      'Slate c': ['maps', [], null],
      'Brick d': ['loose', [], null],
    })
    expect(Object.fromEntries(leftOver.map(l => [l.path, l.reason]))).toEqual({
      'Autumn/index.csv': 'index',
      'Autumn/index_backup.csv': 'indexBackup',
      'Autumn/read me.txt': 'document',
    })
  })
})
