import papaparse from 'papaparse'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { recordQuerySchema } from '#shared/contracts/record.contract'
import { changeLibrary } from '../../src/server/people/libraries'
import { changePerson, invitePerson } from '../../src/server/people/members'
import { createProject } from '../../src/server/projects/projects'
import { compareStates, exportRecord, listRecord } from '../../src/server/upkeep/record'
import { createTestWorld, type TestWorld } from '../test-database'
import { refused } from './refused'

let world: TestWorld
let mira: number
beforeAll(async () => {
  world = await createTestWorld()
  const { db } = world.context
  mira = (await invitePerson(db, world.lead, { name: 'Mira Holt', email: 'mira@studio.example', role: 'artist', libraryIds: [] }))
    .id
  await changePerson(db, world.lead, mira, { role: 'lead', name: '=Mira' })
  await createProject(world.context, world.lead, { code: 'HALL', title: 'Ferry hall', library: 'house' })
  await createProject(world.context, world.insider, { code: 'SECRET', title: 'Kettles', library: 'client' })
})
afterAll(() => world.close())

const record = async (query: Record<string, unknown> = {}, actor = world.lead) =>
  listRecord(world.context.db, actor, recordQuerySchema.parse(query))

describe('the record', () => {
  it('says who did what to what, and from what to what', async () => {
    const { entries } = await record({ subject: 'person' })
    expect(entries.map(e => [e.person, e.verb, e.name])).toEqual([
      [world.lead.name, 'changed', '=Mira'],
      [world.lead.name, 'invited', '=Mira'],
    ])
    expect(entries[0].changes).toEqual([
      { what: 'name', from: 'Mira Holt', to: '=Mira' },
      { what: 'role', from: 'artist', to: 'lead' },
    ])
  })

  it('is narrowed by words, by who, by days, and read page by page', async () => {
    expect((await record({ words: 'ferry' })).entries.map(e => e.code)).toEqual(['HALL'])
    expect((await record({ words: '100%' })).entries).toEqual([])
    expect((await record({ person: world.insider.id })).entries.every(e => e.person === world.insider.name)).toBe(true)
    expect((await record({ to: '2001-01-01' })).entries).toEqual([])
    const today = new Date().toISOString().slice(0, 10)
    const all = (await record({ from: today, to: today })).entries
    expect(all.length).toBeGreaterThanOrEqual(3)
    expect((await record({ before: all[0].id })).entries.map(e => e.id)).toEqual(all.slice(1).map(e => e.id))
  })

  it("is for leads, and tells of a client's library to its team alone", async () => {
    expect(await refused(record({}, world.artist))).toBe('notAllowed')
    expect((await record({ words: 'kettles' })).entries.map(e => e.code)).toEqual(['SECRET'])
    await changePerson(world.context.db, world.lead, world.lead.id, { libraryIds: [] })
    // Not even that somebody was in a team is told to who is not.
    expect(JSON.stringify((await record()).entries)).not.toMatch(/libraryIds|Team/)
    const insider = { ...world.insider, role: 'lead' as const }
    expect((await record({ subject: 'library' }, insider)).entries.map(e => e.verb)).toEqual(['leftTeam'])
    expect((await record({ words: 'kettles' })).entries).toEqual([])
    expect(await refused(changeLibrary(world.context.db, world.lead, 2, { title: 'x' }))).toBe('notFound')
  })

  it('goes out as CSV that no spreadsheet takes for a formula', async () => {
    const text = await exportRecord(world.context.db, world.lead, recordQuerySchema.parse({ subject: 'person' }))
    const { data } = papaparse.parse<Record<string, string>>(text, { header: true })
    expect(data.at(-1)).toMatchObject({ person: world.lead.name, verb: 'invited', name: "'=Mira" })
  })

  it('compares states field by field, however they are made', () => {
    expect(compareStates({ a: 1, b: [1, 2], c: 'same' }, { b: [1, 2, 3], c: 'same', d: true })).toEqual([
      { what: 'a', from: '1', to: '' },
      { what: 'b', from: '[1,2]', to: '[1,2,3]' },
      { what: 'd', from: '', to: 'true' },
    ])
    expect(compareStates(null, 'text')).toEqual([])
    expect(compareStates({}, { long: 'x'.repeat(500) })[0].to).toHaveLength(201)
  })
})
