import { eq } from 'drizzle-orm'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { setItemStates } from '../../src/server/library/edit-items'
import { getWall, listCategories } from '../../src/server/library/wall'
import { changePerson, listMembers } from '../../src/server/people/members'
import { renderPreviewJob } from '../../src/server/previews/render-preview.job'
import { changeGuests } from '../../src/server/projects/guests'
import { createProject, pinItems, unpinItems } from '../../src/server/projects/projects'
import { libraries } from '../../src/server/tables/people.table'
import { ENDPOINTS, type Endpoint } from '../../src/shared/contracts/endpoints'
import { wallQuerySchema } from '../../src/shared/contracts/find.contract'
import type { Project, ProjectSummary } from '../../src/shared/contracts/projects.contract'
import { createTestWorld, type TestWorld } from '../test-database'
import { refused } from './refused'
import { serve } from './serve'
import { createWork, takeIn } from './take-in'

let world: TestWorld
let work: ReturnType<typeof createWork>
let app: Awaited<ReturnType<typeof serve>>
let project: { id: number; libraryId: number }
let items: number[]
let cookie: string

const ask = (path: string, init: RequestInit = {}) =>
  fetch(app.base + path, { ...init, headers: { 'Content-Type': 'application/json', Cookie: cookie } })
const read = async <T>(path: string): Promise<T> => (await ask(path)).json()

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
  app = await serve(world)
  await (await takeIn(world, work, 'house', /Seating|Skies\/Clear/)).file()
  const { chips } = await getWall(world.context, world.lead, wallQuerySchema.parse({}))
  items = chips.map(c => c.id)
  await setItemStates(work, world.lead, items, 'approved')
  for (const { job } of world.sent.filter(s => s.queue === 'render-draft'))
    await renderPreviewJob(work, job as Parameters<typeof renderPreviewJob>[1])
  const [house] = await world.context.db.select().from(libraries).where(eq(libraries.key, 'house'))
  project = {
    id: await createProject(work, world.lead, { code: 'FERRY', title: 'Ferry hall', library: 'house' }),
    libraryId: house.id,
  }
  await createProject(work, world.lead, { code: 'OTHER', title: 'Another', library: 'house' })
  await pinItems(work, world.lead, project.id, [items[0]])
  const session = await fetch(`${app.base}/api/session`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ email: 'gita@studio.example', password: 'gita-password' }),
  })
  cookie = session.headers.getSetCookie()[0].split(';')[0]
})
afterAll(async () => {
  await app.close()
  await work.threads.close()
  await world.close()
})

describe('a guest', () => {
  it('is refused everything that does not say it is for guests', async () => {
    const tried: string[] = []
    for (const [name, { method, path, open, guests }] of Object.entries(ENDPOINTS) as [string, Endpoint][]) {
      if (open || guests) continue
      const response = await ask(path.replace(/\{\w+\}/g, '1'), {
        method: method.toUpperCase(),
        body: method === 'get' ? undefined : '{}',
      })
      expect([name, response.status]).toEqual([name, 403])
      tried.push(name)
    }
    expect(tried.length).toBeGreaterThan(60)
    for (const path of [
      '/api/versions/1/files/0',
      '/api/versions/1/files/0/screen?px=1024',
      '/api/previews/1/linear',
      '/api/previews/1/file?format=png',
      `/api/projects/${project.id}/exports/1/zip`,
      '/api/record.csv',
      '/api/batches/1/items/1/files/0',
    ])
      expect([path, [403, 404].includes((await ask(path)).status)]).toEqual([path, true])
  })

  it('sees no project, item or picture before one is shown', async () => {
    expect(await read<ProjectSummary[]>('/api/projects')).toEqual([])
    expect((await ask(`/api/projects/${project.id}`)).status).toBe(404)
    expect((await getWall(world.context, world.guest, wallQuerySchema.parse({}))).total).toBe(0)
    expect((await listCategories(world.context, world.guest)).every(c => c.count === 0)).toBe(true)
  })

  it('sees what is shown, with its pictures, and nothing beside it', async () => {
    await changeGuests(work, world.lead, project, [world.guest.id])
    expect((await read<ProjectSummary[]>('/api/projects')).map(p => p.code)).toEqual(['FERRY'])
    const shown = await read<Project>(`/api/projects/${project.id}`)
    expect(shown.pinned.map(p => p.chip.id)).toEqual([items[0]])
    expect(shown).toMatchObject({ exports: [], guests: [], outdated: 0 })
    const picture = shown.pinned[0].chip.preview!
    expect((await ask(picture)).headers.get('content-type')).toBe('image/webp')
    const { chips } = await getWall(world.context, world.lead, wallQuerySchema.parse({}))
    const other = chips.find(c => c.id === items[1])!.preview!
    expect((await ask(other)).status).toBe(404)
    const member = (await listMembers(world.context.db, world.lead)).find(m => m.id === world.guest.id)
    expect(member).toMatchObject({ role: 'guest', libraries: [], projects: [{ title: 'Ferry hall' }] })
  })

  it('sees an item no more once it is taken out, and nothing once the project is not shown', async () => {
    const { pinned } = await read<Project>(`/api/projects/${project.id}`)
    await unpinItems(work, world.lead, project.id, [items[0]])
    expect((await ask(pinned[0].chip.preview!)).status).toBe(404)
    await pinItems(work, world.lead, project.id, [items[0]])
    expect((await ask(pinned[0].chip.preview!)).status).toBe(200)
    await changeGuests(work, world.lead, project, [])
    expect((await ask(pinned[0].chip.preview!)).status).toBe(404)
    expect(await read<ProjectSummary[]>('/api/projects')).toEqual([])
  })
})

describe('showing a project', () => {
  it('is for leads, and to guests alone', async () => {
    expect(await refused(changeGuests(work, world.artist, project, [world.guest.id]))).toBe('notAllowed')
    expect(await refused(changeGuests(work, world.lead, project, [world.artist.id]))).toBe('badRequest')
    expect(await refused(changeGuests(work, world.lead, project, [999_999]))).toBe('badRequest')
  })

  it('ends with being a guest: who works here sees by libraries alone', async () => {
    await changeGuests(work, world.lead, project, [world.guest.id])
    await changePerson(world.context.db, world.lead, world.guest.id, { role: 'artist' })
    expect((await read<ProjectSummary[]>('/api/projects')).map(p => p.code).sort()).toEqual(['FERRY', 'OTHER'])
    await changePerson(world.context.db, world.lead, world.guest.id, { role: 'guest' })
    expect((await read<ProjectSummary[]>('/api/projects')).map(p => p.code)).toEqual(['FERRY'])
  })
})
