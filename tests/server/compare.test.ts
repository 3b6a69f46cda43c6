import { eq } from 'drizzle-orm'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { parseExr } from '../../src/core/codecs/exr'
import { parseHdr } from '../../src/core/codecs/hdr'
import { TURNTABLE_FRAMES } from '../../src/core/render/pictures/turntable'
import { HOUSE_RIGS } from '../../src/core/render/rigs/house-rigs'
import { getSheet } from '../../src/server/library/sheet'
import type { PreviewJob } from '../../src/server/platform/queue'
import { getComparison } from '../../src/server/previews/compare'
import { renderPreviewJob } from '../../src/server/previews/render-preview.job'
import { saveComparison, savePicture } from '../../src/server/previews/save-picture'
import { renderTurntableJob } from '../../src/server/previews/turntable/render-turntable.job'
import { getTurntableFile, requestTurntable } from '../../src/server/previews/turntable/turntables'
import { items, previews } from '../../src/server/tables/library.table'
import { rigs } from '../../src/server/tables/rig.table'
import { parseCompareKeys } from '../../src/shared/compare-key'
import { createTestWorld, type TestWorld } from '../test-database'
import { createWork, DRAFT_WIDTH, takeIn } from './take-in'

let world: TestWorld
let work: ReturnType<typeof createWork>
const jobs = () => world.sent.filter(s => s.queue.startsWith('render-')).map(s => s.job as PreviewJob)

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
  await (await takeIn(world, work, 'house', /Seating|Skies/)).file()
  await (await takeIn(world, work, 'client', /Seating/)).file()
  world.sent.length = 0
})
afterAll(async () => {
  await work.threads.close()
  await world.close()
})

describe('a comparison', () => {
  it('asks for what is not rendered yet, in the quality and on the rig wanted', async () => {
    const [first, sky] = await getComparison(work, world.artist, parseCompareKeys('CHR-0001.draft,SKY-0001.v1.final'))
    expect(first).toMatchObject({
      key: 'CHR-0001.draft',
      kind: 'model',
      version: 1,
      versions: [1],
      rig: 'model-three-quarter',
      preview: null,
    })
    expect(first.rigs.map(r => r.name)).toContain('leaf-close-up')
    expect(sky).toMatchObject({ kind: 'environment', preview: null })
    // Both are asked for at once, in whichever order.
    const byRig = (name: string) => jobs().find(j => j.rig === name)
    expect(byRig('model-three-quarter')).toMatchObject({ quality: 'draft' })
    expect(byRig('environment-strip')).toMatchObject({ quality: 'final' })
    await renderPreviewJob(work, byRig('model-three-quarter')!)
    const [there] = await getComparison(work, world.artist, parseCompareKeys('CHR-0001'))
    expect(there.preview).toMatchObject({ quality: 'draft', isOlder: false, rig: 'model-three-quarter' })
    expect(there.preview!.contrast).toBeGreaterThan(0)
    expect(there.preview!.coverage).toBeGreaterThan(0.6)
    expect(there.preview!.coverage).toBeLessThan(0.9)
  })

  it('shows nobody what they may not see, and says what is not there', async () => {
    const refused = (of: string) => getComparison(work, world.artist, parseCompareKeys(of)).catch(e => e.code)
    expect(await refused('CLI-CHR-0001')).toBe('notFound')
    expect(await refused('XXX-0001')).toBe('notFound')
    expect(await refused('CHR-0001.v9')).toBe('notFound')
    expect(await refused('CHR-0001.no-such-rig')).toBe('notFound')
    expect(await refused('CHR-0001.environment-strip')).toBe('notFound')
    expect(await getComparison(work, world.insider, parseCompareKeys('CLI-CHR-0001'))).toHaveLength(1)
  })
})

describe('a saved picture', () => {
  it('is display-encoded or linear as its format asks, and says which', async () => {
    const [row] = await world.context.db.select().from(previews)
    const save = (format: Parameters<typeof savePicture>[3]) => savePicture(work, world.artist, row.id, format)
    const exr = await save('exr')
    const linear = parseExr(exr.bytes)
    expect([linear.width, linear.height]).toEqual([row.width, row.height])
    const hdr = parseHdr((await save('hdr')).bytes)
    const middle = (row.height / 2) * row.width * 3
    expect(Math.abs(hdr.data[middle] / linear.data[middle] - 1)).toBeLessThan(0.02)
    for (const format of ['png', 'jpeg', 'webp'] as const) {
      const { bytes, mediaType } = await save(format)
      expect(mediaType).toBe(`image/${format}`)
      const metadata = await sharp(bytes).metadata()
      expect([metadata.format, metadata.width]).toEqual([format, row.width])
      expect(metadata.exif?.toString('latin1')).toContain('Display-encoded')
    }
    const [code] = (
      await sharp((await save('png')).bytes)
        .raw()
        .toBuffer()
    ).subarray(middle, middle + 1)
    // Neutral up to 0.8: display code is the sRGB of the linear value, to the highlight offset of the tone curve.
    expect(code / 255).toBeGreaterThan(linear.data[middle])
  })

  it('several come in one file, with what each is and how far two are apart', async () => {
    const keys = parseCompareKeys('CHR-0001,CHR-0001')
    const { bytes } = await saveComparison(work, world.artist, keys, 'png')
    const metadata = await sharp(bytes).metadata()
    expect([metadata.width, metadata.height]).toEqual([2 * DRAFT_WIDTH + 8, DRAFT_WIDTH * 0.75])
    const said = metadata.exif!.toString('latin1')
    expect(said).toContain('A: CHR-0001 version 1, draft, model-three-quarter')
    expect(said).toContain('FLIP mean 0.0000')
    const exr = await saveComparison(work, world.artist, keys, 'exr')
    expect(Buffer.from(exr.bytes.subarray(0, 1000)).toString('latin1')).toContain('Linear Rec.709. A: CHR-0001')
    expect(parseExr(exr.bytes).width).toBe(2 * DRAFT_WIDTH + 8)
    const refused = (of: string) => saveComparison(work, world.artist, parseCompareKeys(of), 'png').catch(e => e.code)
    expect(await refused('CHR-0001,CHR-0001.final')).toBe('notReady')
    expect(await refused('CHR-0001,CLI-CHR-0001')).toBe('notFound')
    expect(await refused('')).toBe('badRequest')
  })

  it('is refused to whom the item is not shown, and where no linear picture was kept', async () => {
    const { db } = world.context
    await expect(savePicture(work, world.artist, 999_999, 'png')).rejects.toMatchObject({ code: 'notFound' })
    const [row] = await db.select().from(previews)
    await db.update(previews).set({ linearHash: null }).where(eq(previews.id, row.id))
    await expect(savePicture(work, world.artist, row.id, 'png')).rejects.toMatchObject({ code: 'notFound' })
  })
})

describe('a turn', () => {
  it('is rendered once, on demand, as a loop that runs for ever', async () => {
    const { context, artist } = world
    const chair = await getSheet(context.pool, artist, 'CHR-0001', null)
    expect(chair.turntable).toBeNull()
    const rig = HOUSE_RIGS['model-three-quarter']
    const small = { ...rig, draft: { ...rig.draft, width: 64 } }
    await context.db.insert(rigs).values({ name: rig.name, revision: 90, data: small, state: 'adopted' })
    world.sent.length = 0
    await requestTurntable(context, artist, chair.id)
    const [{ job }] = world.sent.filter(s => s.queue === 'render-turntable')
    await renderTurntableJob(work, job as { inputKey: string })
    const { turntable } = await getSheet(context.pool, artist, 'CHR-0001', null)
    const id = Number(turntable!.match(/^\/api\/turntables\/(\d+)$/)![1])
    const hash = await getTurntableFile(context.db, artist, id)
    const metadata = await sharp(await work.storage.localPath(hash), { animated: true }).metadata()
    expect(metadata).toMatchObject({ format: 'webp', pages: TURNTABLE_FRAMES, loop: 0, width: 64, pageHeight: 48 })
  })

  it('is refused for what cannot turn and for what the asker may not see', async () => {
    const { context, artist } = world
    const refused = (id: number) => requestTurntable(context, artist, id).catch(e => e.code)
    const sky = (await context.db.select().from(items)).find(i => i.kind === 'environment')!
    const hidden = (await context.db.select().from(items)).find(i => i.code === 'CLI-CHR-0001')!
    expect(await refused(sky.id)).toBe('badRequest')
    expect(await refused(hidden.id)).toBe('notFound')
    expect(await refused(999_999)).toBe('notFound')
    expect(await getTurntableFile(context.db, artist, 999_999).catch(e => e.code)).toBe('notFound')
    // Inputs that nothing has any more are passed over.
    await renderTurntableJob(work, { inputKey: 'gone' })
  })
})
