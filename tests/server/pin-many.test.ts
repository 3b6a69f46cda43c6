import { eq, sql } from 'drizzle-orm'
import { afterAll, beforeAll, expect, it } from 'vitest'
import { createProject, pinItems } from '../../src/server/projects/projects'
import { events, items } from '../../src/server/tables/library.table'
import { pins } from '../../src/server/tables/project.table'
import { MOST_TRAY_ITEMS } from '../../src/shared/contracts/personal.contract'
import { pinItemsSchema } from '../../src/shared/contracts/projects.contract'
import { createTestWorld, type TestWorld } from '../test-database'

let world: TestWorld
const COUNT = 2500

beforeAll(async () => {
  world = await createTestWorld()
  await world.context.db.execute(sql`
    with made as (
      insert into items (library_id, category, kind, code, name, state)
      select 1, 'surfaces.timber'::ltree, 'material', 'TIM-' || n, 'Board ' || n, 'approved' from generate_series(1, ${COUNT}::int) n
      returning id, code
    ), stated as (
      insert into versions (item_id, number, author_id, input_key) select id, 1, ${world.lead.id}, code from made returning id
    )
    select count(*) from stated`)
  // One in ten has no version that is approved.
  await world.context.db.execute(sql`
    update items i set current_version_id = v.id, approved_version_id = case when i.id % 10 = 0 then null else v.id end
    from versions v where v.item_id = i.id`)
})
afterAll(() => world.close())

it('a whole tray goes into a project at once, each item told of once, what cannot be pinned with the reason', async () => {
  const { context, artist } = world
  const projectId = await createProject(context, artist, { code: 'MANY', title: 'Many', library: 'house' })
  const ids = (await context.db.select({ id: items.id }).from(items)).map(i => i.id)
  expect(pinItemsSchema.safeParse({ ids: Array.from({ length: MOST_TRAY_ITEMS }, (_, n) => n + 1) }).success).toBe(true)
  const result = await pinItems(context, artist, projectId, ids)
  expect([result.changed.length, result.refused.length]).toEqual([COUNT * 0.9, COUNT * 0.1])
  expect(new Set(result.refused.map(r => r.reason))).toEqual(new Set(['No version of it is approved.']))
  // Once more nothing is new, and nothing is told twice.
  expect((await pinItems(context, artist, projectId, ids)).changed).toHaveLength(COUNT * 0.9)
  expect(await context.db.$count(pins, eq(pins.projectId, projectId))).toBe(COUNT * 0.9)
  expect(await context.db.$count(events, eq(events.verb, 'pinned'))).toBe(COUNT * 0.9)
})
