import { createHash } from 'node:crypto'
import { readFile } from 'node:fs/promises'
import { XMLValidator } from 'fast-xml-parser'
import { unzipSync } from 'fflate'
import { validateBytes } from 'gltf-validator'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { parseExr } from '../../src/core/codecs/exr'
import { parseHdr } from '../../src/core/codecs/hdr'
import { analyseEnvironment } from '../../src/core/environment/analyse-environment'
import { parseGlb } from '../../src/core/geometry/read-gltf'
import { parseMaterialX } from '../../src/core/targets/materialx/read-materialx'
import { decodeByteImage } from '../../src/files/reading/decode-image'
import { decide } from '../../src/server/decisions/decide'
import { editItem, setItemStates } from '../../src/server/library/edit-items'
import { getSheet } from '../../src/server/library/sheet'
import { getWall } from '../../src/server/library/wall'
import { getExportFile } from '../../src/server/projects/exports/exports'
import { orderExport } from '../../src/server/projects/exports/order-export'
import { writeExportJob } from '../../src/server/projects/exports/write-export.job'
import { createProject, getProject, pinItems, unpinItems } from '../../src/server/projects/projects'
import { decideSchema } from '../../src/shared/contracts/decisions.contract'
import { wallQuerySchema } from '../../src/shared/contracts/find.contract'
import type { ExportManifest } from '../../src/shared/contracts/hand-over.contract'
import { orderExportSchema } from '../../src/shared/contracts/projects.contract'
import { createTestWorld, type TestWorld } from '../test-database'
import { createWork, takeIn } from './take-in'

let world: TestWorld
let work: ReturnType<typeof createWork>
let projectId: number

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
  await (await takeIn(world, work)).file()
  const { chips } = await getWall(world.context, world.lead, wallQuerySchema.parse({}))
  const ids = chips.map(c => c.id)
  await setItemStates(work, world.lead, ids, 'approved')
  projectId = await createProject(work, world.artist, { code: 'FERRY', title: 'Ferry hall', library: 'house' })
  await pinItems(work, world.artist, projectId, ids)
})
afterAll(async () => {
  await work.threads.close()
  await world.close()
})

async function order(request: Record<string, unknown>) {
  const exportId = await orderExport(work, world.artist, projectId, orderExportSchema.parse({ profile: request }))
  await writeExportJob(work, { exportId })
  const { hash, fileName } = await getExportFile(world.context.db, world.artist, projectId, exportId)
  const entries = unzipSync(new Uint8Array(await readFile(await world.context.storage.localPath(hash))))
  const manifest = JSON.parse(new TextDecoder().decode(entries['manifest.json'])) as ExportManifest
  return { entries, manifest, fileName }
}

async function expectValidGltf(bytes: Uint8Array): Promise<void> {
  const report = await validateBytes(bytes)
  expect(report.issues.messages.filter((m: { severity: number }) => m.severity === 0)).toEqual([])
  expect(report.issues.numErrors).toBe(0)
}

describe('an export', () => {
  it('holds what its manifest says, byte for byte, and every path resolves', async () => {
    const { entries, manifest, fileName } = await order({})
    expect(fileName).toMatch(/^FERRY-export-\d+\.zip$/)
    expect(manifest.failures).toEqual([])
    expect(manifest.items.map(i => i.code).sort()).toEqual(['CHR-0001', 'SKY-0001', 'SKY-0002', 'TIM-0001'])
    for (const item of manifest.items) {
      expect(item).toMatchObject({ version: 1, licence: 'All projects', maker: 'Test Makers' })
      for (const file of item.files) {
        const bytes = entries[file.path]
        expect(bytes.length).toBe(file.bytes)
        expect(createHash('sha256').update(bytes).digest('hex')).toBe(file.sha256)
      }
    }
    const named = manifest.items.flatMap(i => i.files.map(f => f.path))
    expect([...named, 'manifest.json'].sort()).toEqual(Object.keys(entries).sort())
  })

  it('writes well-formed MaterialX that names only files that are there, at true size', async () => {
    const { entries, manifest } = await order({ materials: 'materialX' })
    const oak = manifest.items.find(i => i.code === 'TIM-0001')!
    const document = oak.files.find(f => f.path.endsWith('.mtlx'))!
    const text = new TextDecoder().decode(entries[document.path])
    expect(XMLValidator.validate(text)).toBe(true)
    const parsed = parseMaterialX(text)
    expect(parsed.tileSizeM).toEqual([0.6, 0.6])
    expect(parsed.files.length).toBe(4)
    const folder = document.path.split('/').slice(0, -1).join('/')
    for (const file of parsed.files) expect(entries[`${folder}/${file}`]).toBeDefined()
  })

  it('writes glTF without an error, at the size asked for', async () => {
    const { entries, manifest } = await order({ materials: 'gltf', maxSizePx: 512 })
    const glbs = Object.keys(entries).filter(p => p.endsWith('.glb'))
    expect(glbs).toHaveLength(2)
    for (const path of glbs) await expectValidGltf(entries[path])
    const patch = await parseGlb(entries[manifest.items.find(i => i.code === 'TIM-0001')!.files[0].path])
    const xs = patch.parts[0].mesh.positions.filter((_, i) => i % 3 === 0)
    expect(Math.max(...xs) - Math.min(...xs)).toBeCloseTo(0.6, 5)
    expect(Object.keys(patch.materials[0].textures).sort()).toEqual([
      'baseColor',
      'baseMetalness',
      'geometryNormal',
      'specularRoughness',
    ])
    const packed = await decodeByteImage(patch.images[patch.materials[0].textures.specularRoughness!.image].bytes, 512)
    // Green is roughness as the map has it; blue is the metalness of a surface that has none.
    expect(packed.data[1]).toBeGreaterThan(80)
    expect(packed.data[2]).toBe(0)
  })

  it('a glTF with one wrong byte in its JSON would be noticed', async () => {
    const { entries } = await order({ materials: 'gltf' })
    const path = Object.keys(entries).find(p => p.endsWith('.glb'))!
    const broken = entries[path].slice()
    const at = Buffer.from(broken).indexOf('"componentType":5126')
    broken.set(new TextEncoder().encode('9999'), at + '"componentType":'.length)
    const report = await validateBytes(broken)
    expect(report.issues.numErrors).toBeGreaterThan(0)
  })

  it('reduces skies in linear light: the same irradiance in either format', async () => {
    const { entries, manifest } = await order({ environments: 'hdr', maxSizePx: 512 })
    const { entries: asExr } = await order({ environments: 'exr' })
    for (const item of manifest.items.filter(i => i.kind === 'environment')) {
      const hdr = parseHdr(entries[item.files[0].path])
      const exrPath = Object.keys(asExr).find(p => p.startsWith(item.code.replace('-', '_')) && p.endsWith('.exr'))!
      const exr = parseExr(asExr[exrPath])
      const light = (map: typeof hdr) => analyseEnvironment(map).facts.horizontalIrradiance
      expect(hdr.width).toBe(512)
      expect(light(hdr) / light(exr)).toBeCloseTo(1, 1)
    }
  })
})

describe('pins', () => {
  it('stay at their version until somebody takes the newer one', async () => {
    const sheet = await getSheet(world.pool, world.lead, 'TIM-0001', null)
    await editItem(work, world.lead, sheet.id, { widthMm: 1200 })
    const pinOf = async () =>
      (await getProject(world.context, world.artist, projectId)).pinned.find(p => p.chip.code === 'TIM-0001')!
    expect(await pinOf()).toMatchObject({ versionNumber: 1, approvedNumber: 1 })
    await setItemStates(work, world.lead, [sheet.id], 'approved')
    expect(await pinOf()).toMatchObject({ versionNumber: 1, approvedNumber: 2 })
    expect((await getProject(world.context, world.artist, projectId)).outdated).toBe(1)
    expect((await order({})).manifest.items.find(i => i.code === 'TIM-0001')).toMatchObject({ version: 1, widthMm: 600 })
    await decide(work, world.artist, projectId, decideSchema.parse({ ids: [sheet.id], kind: 'take' }))
    expect(await pinOf()).toMatchObject({ versionNumber: 2 })
    expect((await order({})).manifest.items.find(i => i.code === 'TIM-0001')).toMatchObject({ version: 2, widthMm: 1200 })
  })

  it('can be taken out, and an empty project exports nothing', async () => {
    const empty = await createProject(work, world.artist, { code: 'EMPTY', title: 'Empty', library: 'house' })
    await expect(orderExport(work, world.artist, empty, orderExportSchema.parse({}))).rejects.toMatchObject({
      code: 'badRequest',
    })
    const before = (await getProject(world.context, world.artist, projectId)).pins
    const first = (await getProject(world.context, world.artist, projectId)).pinned[0].chip.id
    await unpinItems(work, world.artist, projectId, [first])
    expect((await getProject(world.context, world.artist, projectId)).pins).toBe(before - 1)
    await expect(createProject(work, world.artist, { code: 'EMPTY', title: 'Again', library: 'house' })).rejects.toMatchObject({
      code: 'conflict',
    })
  })
})
