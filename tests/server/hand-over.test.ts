import { readFile, rm } from 'node:fs/promises'
import { and, eq } from 'drizzle-orm'
import { unzipSync } from 'fflate'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { setItemStates } from '../../src/server/library/edit-items'
import { getSheet } from '../../src/server/library/sheet'
import { getWall } from '../../src/server/library/wall'
import { measureFidelityJob } from '../../src/server/previews/fidelity/measure-fidelity.job'
import { editProject } from '../../src/server/projects/edit-project'
import { getExportFile } from '../../src/server/projects/exports/exports'
import { checkHandOver } from '../../src/server/projects/exports/hand-over-check'
import { handOverItem, handOverMap } from '../../src/server/projects/exports/hand-over-item'
import { orderExport } from '../../src/server/projects/exports/order-export'
import { writeExportJob } from '../../src/server/projects/exports/write-export.job'
import { createProject, getProject, pinItems } from '../../src/server/projects/projects'
import { listLicences, setLicence } from '../../src/server/standard/licences/licences'
import { listProfiles, removeProfile, saveProfile } from '../../src/server/standard/profiles/profiles'
import { facts, items, versions } from '../../src/server/tables/library.table'
import { wallQuerySchema } from '../../src/shared/contracts/find.contract'
import type { ExportManifest } from '../../src/shared/contracts/hand-over.contract'
import { profileSchema } from '../../src/shared/contracts/profiles.contract'
import { orderExportSchema } from '../../src/shared/contracts/projects.contract'
import { createTestWorld, type TestWorld } from '../test-database'
import { refused } from './refused'
import { createWork, takeIn } from './take-in'

let world: TestWorld
let work: ReturnType<typeof createWork>
let projectId: number
let ids: number[]

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
  await (await takeIn(world, work)).file()
  const { chips } = await getWall(world.context, world.lead, wallQuerySchema.parse({}))
  ids = chips.map(c => c.id)
  await setItemStates(work, world.lead, ids, 'approved')
  projectId = await createProject(work, world.artist, { code: 'FERRY', title: 'Ferry hall', library: 'house' })
  await pinItems(work, world.artist, projectId, ids)
})
afterAll(async () => {
  await work.threads.close()
  await world.close()
})

async function handOver(wish: Record<string, unknown> = {}) {
  const exportId = await orderExport(work, world.artist, projectId, orderExportSchema.parse(wish))
  await writeExportJob(work, { exportId })
  const { hash } = await getExportFile(work.db, world.artist, projectId, exportId)
  const entries = unzipSync(new Uint8Array(await readFile(await work.storage.localPath(hash))))
  return JSON.parse(new TextDecoder().decode(entries['manifest.json'])) as ExportManifest
}
const codesOf = (manifest: ExportManifest) => manifest.items.map(i => i.code)
const asProfile = (patch: Record<string, unknown>) => profileSchema.parse(patch)
const list = () => listProfiles(work.db, world.artist)

describe('profiles', () => {
  it('begin with the one of the house, which keeps everything as it is', async () => {
    expect(await list()).toMatchObject([{ name: 'As kept', isHouse: true, projects: 0, profile: asProfile({}) }])
    expect(
      await refused(saveProfile(work, world.artist, { id: null, name: 'Mine', profile: asProfile({}), isHouse: false })),
    ).toBe('notAllowed')
  })

  it('are kept under one name each; a project takes one, has a form of its own, or does as the house does', async () => {
    const usd = asProfile({ materials: 'usd', models: 'usdz', unit: 'cm', upAxis: 'z', maxSizePx: 64 })
    const id = await saveProfile(work, world.lead, { id: null, name: 'Quay renderer', profile: usd, isHouse: false })
    expect(await refused(saveProfile(work, world.lead, { id: null, name: 'Quay renderer', profile: usd, isHouse: false }))).toBe(
      'conflict',
    )
    expect((await handOver()).items.find(i => i.code === 'TIM-0001')!.target).toBe('MaterialX 1.39')
    await editProject(work, world.artist, projectId, { profileId: id })
    const manifest = await handOver()
    expect(manifest.profile).toEqual(usd)
    expect(manifest.items.find(i => i.kind === 'model')!.files[0].path).toMatch(/\.usdz$/)
    expect(manifest.items.find(i => i.code === 'TIM-0001')!.files.some(f => f.path.endsWith('.usda'))).toBe(true)
    expect((await list()).find(p => p.id === id)).toMatchObject({ projects: 1 })
    expect(await refused(removeProfile(work, world.lead, id))).toBe('conflict')
    await editProject(work, world.artist, projectId, { ownForm: asProfile({ materials: 'objMtl', models: 'obj' }) })
    expect((await handOver()).items.find(i => i.kind === 'model')!.target).toContain('OBJ')
    // Another profile, this once.
    expect((await handOver({ profileId: id })).profile).toEqual(usd)
    const project = await getProject(work, world.artist, projectId)
    expect(project.exports.slice(0, 2).map(e => e.label)).toEqual(['Quay renderer', ''])
    await editProject(work, world.artist, projectId, { ownForm: null, profileId: null })
    await removeProfile(work, world.lead, id)
    expect(await list()).toHaveLength(1)
  })

  it('one is always the house’s', async () => {
    const [house] = await list()
    expect(await refused(removeProfile(work, world.lead, house.id))).toBe('conflict')
    const id = await saveProfile(work, world.lead, {
      id: null,
      name: 'Patches',
      profile: asProfile({ materials: 'gltf' }),
      isHouse: true,
    })
    expect((await list()).filter(p => p.isHouse).map(p => p.name)).toEqual(['Patches'])
    expect((await handOver()).items.find(i => i.code === 'TIM-0001')!.target).toContain('glTF')
    await saveProfile(work, world.lead, { id: house.id, name: house.name, profile: house.profile, isHouse: true })
    await removeProfile(work, world.lead, id)
  })
})

describe('what is handed over', () => {
  it('is what is chosen of the pins, in the form that was not had yet', async () => {
    const [first] = ids
    const manifest = await handOver({ itemIds: [first], profile: { materials: 'gltf', models: 'obj' } })
    expect(manifest.items).toHaveLength(1)
    const rest = await handOver({ onlyNew: true, profile: { materials: 'gltf', models: 'obj' } })
    expect(codesOf(rest)).not.toContain(codesOf(manifest)[0])
    expect(codesOf(rest)).toHaveLength(ids.length - 1)
    const wish = orderExportSchema.parse({ onlyNew: true, profile: { materials: 'gltf', models: 'obj' } })
    expect(await refused(orderExport(work, world.artist, projectId, wish))).toBe('badRequest')
    expect(await refused(orderExport(work, world.artist, projectId, orderExportSchema.parse({ itemIds: [999_999] })))).toBe(
      'badRequest',
    )
  })

  it('is one map alone, as a profile wants it, for whoever may have the whole', async () => {
    const { fileName, bytes } = await handOverMap(work, world.artist, { code: 'TIM-0001', map: 'baseColor' })
    expect(fileName).toMatch(/^TIM_0001_.*baseColor\.\w+$/)
    const { zipPath } = await handOverItem(work, world.artist, { code: 'TIM-0001' })
    const whole = unzipSync(new Uint8Array(await readFile(zipPath)))
    await rm(zipPath)
    const [, same] = Object.entries(whole).find(([path]) => path.endsWith(`/${fileName}`))!
    expect(Buffer.compare(bytes, same)).toBe(0)
    const copy = await handOverItem(work, world.artist, { code: 'TIM-0001', isCopy: true })
    const { 'manifest.json': about } = unzipSync(new Uint8Array(await readFile(copy.zipPath)))
    await rm(copy.zipPath)
    const [said, usual] = [about, whole['manifest.json']].map(text => JSON.parse(new TextDecoder().decode(text)).items[0].isCopy)
    expect([said, usual]).toEqual([true, undefined])
    expect(await refused(handOverMap(work, world.artist, { code: 'TIM-0001', map: 'emission' }))).toBe('notFound')
    expect(await refused(handOverMap(work, world.artist, { code: 'TIM-9999', map: 'baseColor' }))).toBe('notFound')
  })

  it('leaves behind what its licence does not cover, with the reason; told before', async () => {
    const before = await listLicences(work.db, world.lead)
    expect(before).toMatchObject([{ wording: 'All projects', reach: 'all', isSaid: false }])
    expect(before[0].items).toBe(ids.length)
    const terms = { wording: 'All projects', reach: 'projects', projectIds: [], until: null } as const
    expect(await refused(setLicence(work, world.artist, { ...terms, projectIds: [] }))).toBe('notAllowed')
    await setLicence(work, world.lead, { ...terms, projectIds: [] })
    const check = await checkHandOver(work, world.artist, projectId, 'materialX')
    expect(check.refused).toHaveLength(ids.length)
    expect(check.refused[0].reason).toContain('does not cover FERRY')
    const manifest = await handOver()
    expect(manifest.items).toEqual([])
    expect(manifest.failures).toHaveLength(ids.length)
    expect(manifest.failures[0].message).toContain('“All projects”, does not cover FERRY')
    const one = { code: 'TIM-0001' }
    expect(await refused(handOverItem(work, world.artist, one))).toBe('notAllowed')
    expect(await refused(handOverMap(work, world.artist, { ...one, map: 'baseColor' }))).toBe('notAllowed')
    await setLicence(work, world.lead, { ...terms, projectIds: [projectId] })
    expect((await handOver()).failures).toEqual([])
    await setLicence(work, world.lead, { ...terms, projectIds: [], reach: 'all', until: '2020-01-31' })
    expect((await handOver()).failures[0].message).toContain('ran out after 2020-01-31')
    await setLicence(work, world.lead, { ...terms, reach: 'all', projectIds: [] })
    expect((await handOver()).items).toHaveLength(ids.length)
  })

  it('names projects of a licence to those alone who see them, and keeps the others', async () => {
    const secret = await createProject(work, world.insider, { code: 'KETTLE', title: 'Kettles', library: 'client' })
    const terms = { wording: 'Some', reach: 'projects', projectIds: [secret, projectId], until: null } as const
    const insider = { ...world.insider, role: 'lead' as const }
    const outsider = { ...world.artist, role: 'lead' as const }
    await setLicence(work, insider, { ...terms, projectIds: [secret, projectId] })
    expect(await refused(setLicence(work, outsider, { ...terms, projectIds: [secret] }))).toBe('badRequest')
    const [one] = await work.db.select().from(items).where(eq(items.id, ids[0]))
    const isItsLicence = and(eq(facts.versionId, one.currentVersionId!), eq(facts.name, 'licence'))
    await work.db.update(facts).set({ text: 'Some' }).where(isItsLicence)
    const view = (await listLicences(work.db, outsider)).find(l => l.wording === 'Some')!
    expect(view.projectIds).toEqual([projectId])
    await setLicence(work, outsider, { ...terms, projectIds: [] })
    expect((await listLicences(work.db, insider)).find(l => l.wording === 'Some')!.projectIds).toEqual([secret])
  })
})

describe('an item by itself', () => {
  it('comes as a zip in a profile, of the version that is asked for', async () => {
    const id = await saveProfile(work, world.lead, {
      id: null,
      name: 'Patch',
      profile: asProfile({ materials: 'gltf' }),
      isHouse: false,
    })
    const { zipPath, fileName } = await handOverItem(work, world.artist, { code: 'TIM-0001', version: 1, profileId: id })
    expect(fileName).toMatch(/^TIM_0001_.*_v1\.zip$/)
    const entries = unzipSync(new Uint8Array(await readFile(zipPath)))
    await rm(zipPath)
    expect(Object.keys(entries).some(path => path.endsWith('.glb'))).toBe(true)
    expect(JSON.parse(new TextDecoder().decode(entries['manifest.json'])).project).toBeNull()
    expect(await refused(handOverItem(work, world.artist, { code: 'TIM-0001', version: 99 }))).toBe('notFound')
    expect(await refused(handOverItem(work, world.artist, { code: 'TIM-0001', profileId: 9999 }))).toBe('notFound')
  })
})

describe('before it leaves', () => {
  it('says which looks a form does not keep, and what nobody has measured', async () => {
    const before = await checkHandOver(work, world.artist, projectId, 'objMtl')
    expect(before).toMatchObject({ losing: [], unmeasured: 1 })
    const sheet = await getSheet(work.pool, world.lead, 'TIM-0001', null)
    const [{ inputKey }] = (await work.db.select().from(versions)).filter(v => v.id === sheet.version.id)
    await measureFidelityJob(work, { inputKey })
    const after = await checkHandOver(work, world.artist, projectId, 'objMtl')
    expect(after.unmeasured).toBe(0)
    expect((await list())[0].fidelity.map(f => f.measured)).toEqual([1])
  })
})
