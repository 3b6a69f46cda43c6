import { mkdir, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { listDesk } from '../../src/files/exports/list-desk'
import { hashBytes } from '../../src/files/reading/hash-bytes'
import { getWall } from '../../src/server/library/wall'
import { forgetDesk, listDesks, reportDesk } from '../../src/server/personal/desks'
import { items, versions } from '../../src/server/tables/library.table'
import { wallQuerySchema } from '../../src/shared/contracts/find.contract'
import type { ExportManifest } from '../../src/shared/contracts/hand-over.contract'
import { reportDeskSchema } from '../../src/shared/contracts/personal.contract'
import { createTestWorld, type TestWorld } from '../test-database'

let world: TestWorld

beforeAll(async () => {
  world = await createTestWorld()
  for (const [n, libraryId] of [1, 1, 1, 2].entries()) {
    const [{ id }] = await world.context.db
      .insert(items)
      .values({
        libraryId,
        category: 'surfaces.timber',
        kind: 'material',
        code: `TIM-000${n + 1}`,
        name: `Board ${n + 1}`,
        state: 'approved',
      })
      .returning({ id: items.id })
    await approve(id, 1)
  }
})
afterAll(() => world.close())

async function approve(itemId: number, number: number): Promise<void> {
  const [{ id }] = await world.context.db
    .insert(versions)
    .values({ itemId, number, authorId: world.lead.id, inputKey: `${itemId} ${number}` })
    .returning({ id: versions.id })
  await world.context.db.update(items).set({ currentVersionId: id, approvedVersionId: id }).where(eq(items.id, itemId))
}

const find = async (desk: string, actor = world.artist) =>
  (await getWall(world.context, actor, wallQuerySchema.parse({ desk }))).chips.map(c => c.code)
const counts = async (actor = world.artist) =>
  Object.fromEntries(
    ((await getWall(world.context, actor, wallQuerySchema.parse({}))).facets!.terms.desk ?? []).map(v => [v.value, v.count]),
  )
const report = (given: Parameters<typeof reportDeskSchema.parse>[0], actor = world.artist) =>
  reportDesk(world.context.db, actor, reportDeskSchema.parse(given))
const lies = (code: string, version = 1, isWhole = true) => ({ code, version, isWhole })

describe('what lies on a desk', () => {
  it('is unknown before it has told, and narrows the wall from then on; of others’ desks and hidden items nothing is told', async () => {
    expect(await counts()).toEqual({})
    const told = await report({
      name: 'Studio 4',
      isAll: true,
      items: [lies('TIM-0001'), lies('TIM-0002', 1, false), lies('TIM-0004')],
    })
    // One of a library that the artist does not see is as unknown as one that is not there.
    expect(told).toEqual({ known: 2, unknown: ['TIM-0004'] })
    expect(await find('here')).toEqual(['TIM-0001'])
    expect(await find('damaged')).toEqual(['TIM-0002'])
    expect(await find('none')).toEqual(['TIM-0003'])
    expect(await counts()).toEqual({ here: 1, damaged: 1, none: 1 })
    expect(await counts(world.lead)).toEqual({})
    expect(await listDesks(world.context.db, world.lead)).toEqual([])
    expect(await listDesks(world.context.db, world.artist)).toMatchObject([{ name: 'Studio 4', items: 2 }])
  })

  it('becomes older with the approval of a newer version; a second desk counts as well', async () => {
    const [{ id }] = await world.context.db.select().from(items).where(eq(items.code, 'TIM-0001'))
    await approve(id, 2)
    expect(await find('older')).toEqual(['TIM-0001'])
    await report({ name: 'Laptop', isAll: true, items: [lies('TIM-0001', 2), lies('TIM-0001', 1), lies('TIM-0003', 1, false)] })
    expect(await find('here')).toEqual(['TIM-0001'])
    expect(await find('damaged|none')).toEqual(['TIM-0002', 'TIM-0003'])
  })

  it('told in part leaves the rest as it was; told whole, what is not named is gone; forgotten, it is unknown again', async () => {
    await report({ name: 'Studio 4', isAll: false, items: [lies('TIM-0002')] })
    expect(await find('here')).toEqual(['TIM-0001', 'TIM-0002'])
    await report({ name: 'Studio 4', isAll: true, items: [] })
    expect(await find('here')).toEqual(['TIM-0001'])
    const [first] = await listDesks(world.context.db, world.artist)
    await expect(forgetDesk(world.context.db, world.lead, first.id)).rejects.toMatchObject({ code: 'notFound' })
    for (const { id } of await listDesks(world.context.db, world.artist)) await forgetDesk(world.context.db, world.artist, id)
    expect(await counts()).toEqual({})
    expect(await find('here')).toEqual([])
  })

  it('is found below a folder by its hand-overs, wherever they lie, each item by its files', async () => {
    const folder = join(world.folder, 'desk')
    const bytes = new TextEncoder().encode('pixels')
    const put = async (place: string, codes: string[], broken: string[]) => {
      await mkdir(join(folder, place), { recursive: true })
      const sha256 = await hashBytes(bytes)
      const files = (code: string) => [{ path: `${code}.png`, sha256, bytes: bytes.length }]
      const item = {
        kind: 'material',
        version: 3,
        category: 'surfaces',
        maker: '',
        licence: '',
        target: 'glTF',
        widthMm: 1,
        tiling: 'repeat' as const,
      }
      const manifest: ExportManifest = {
        ...{ project: null, source: null, exportedAt: '2026-01-01', maxSizePx: null, failures: [] },
        items: codes.map(code => ({ ...item, code, name: code, notes: [], files: files(code) })),
      }
      await writeFile(join(folder, place, 'manifest.json'), JSON.stringify(manifest))
      for (const code of codes) await writeFile(join(folder, place, `${code}.png`), broken.includes(code) ? 'others' : bytes)
    }
    await put('jobs/ferry/assets', ['TIM-0001', 'TIM-0002'], ['TIM-0002'])
    await put('jobs/kettle', ['TIM-0003'], [])
    await put('node_modules/x', ['TIM-0009'], [])
    await mkdir(join(folder, 'web'), { recursive: true })
    await writeFile(join(folder, 'web', 'manifest.json'), '{"name": "a web page"}')
    const told: string[] = []
    const desk = await listDesk(folder, path => told.push(path))
    expect(desk.items.sort((a, b) => (a.code < b.code ? -1 : 1))).toEqual([
      lies('TIM-0001', 3),
      lies('TIM-0002', 3, false),
      lies('TIM-0003', 3),
    ])
    expect(desk.handOvers).toHaveLength(2)
    expect(desk.unread).toEqual([join(folder, 'web')])
    expect(told).toHaveLength(3)
    await expect(listDesk(join(folder, 'nowhere'))).rejects.toThrow('There is no folder')
    await rm(folder, { recursive: true })
  })
})
