import { writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { eq } from 'drizzle-orm'
import sharp from 'sharp'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { getChips } from '../../src/server/library/chips'
import { editItem } from '../../src/server/library/edit-items'
import {
  bringOwnPicture,
  getOwnPictureFile,
  listOwnPictures,
  setOwnPictures,
  takeDeliveredPicture,
} from '../../src/server/library/pictures/own-pictures'
import { reducePictureJob } from '../../src/server/library/pictures/reduce-picture.job'
import { getSheet } from '../../src/server/library/sheet'
import { items } from '../../src/server/tables/library.table'
import type { Person } from '../../src/shared/contracts/session.contract'
import { createTestWorld, type TestWorld } from '../test-database'
import { createWork, takeIn } from './take-in'

let world: TestWorld
let work: ReturnType<typeof createWork>
let itemId: number
let code: string

beforeAll(async () => {
  world = await createTestWorld()
  work = createWork(world)
  await (await takeIn(world, work, 'client', /Timber|Oak/i)).file()
  const [item] = await world.context.db.select().from(items).where(eq(items.kind, 'material'))
  itemId = item.id
  code = item.code
})
afterAll(async () => {
  await work.threads.close()
  await world.close()
})

const sheet = () => getSheet(world.pool, world.lead, code, null)
const chip = async (actor: Person = world.lead) => (await getChips(world.pool, actor, [itemId]))[0]

async function bring(name: string, bytes: Uint8Array | null = null, actor: Person = world.lead): Promise<void> {
  const path = join(world.folder, `brought-${Math.random().toString(36).slice(2)}`)
  const picture = await sharp({ create: { width: 1600, height: 1200, channels: 3, background: '#777' } })
    .composite([{ input: { create: { width: 1000, height: 800, channels: 3, background: '#ddd6c8' } } }])
    .jpeg()
    .toBuffer()
  await writeFile(path, bytes ?? picture)
  world.sent.length = 0
  await bringOwnPicture(work, actor, itemId, name, path)
  for (const { queue, job } of world.sent) if (queue === 'reduce-picture') await reducePictureJob(work, job as { id: number })
}

describe('a picture of its own', () => {
  it('is shown on wall and sheet once it is reduced, with its score', async () => {
    expect(await chip()).toMatchObject({ isOwnPicture: false })
    await bring('beauty.jpg')
    const { ownPicture, pendingPicture } = await sheet()
    expect(ownPicture).toMatchObject({
      fileName: 'beauty.jpg',
      width: 1024,
      height: 768,
      originalWidth: 1600,
      by: world.lead.name,
      faults: [],
      score: 100,
    })
    expect(pendingPicture).toBeNull()
    expect(await chip()).toMatchObject({ isOwnPicture: true, isOlderPreview: false, preview: ownPicture!.url })
    const hash = await getOwnPictureFile(world.context.db, world.insider, ownPicture!.id)
    const metadata = await sharp(await world.context.storage.localPath(hash)).metadata()
    expect([metadata.format, metadata.width]).toEqual(['webp', 1024])
    expect((await sheet()).events[0]).toMatchObject({ verb: 'pictured' })
  })

  it('one that does not decode is refused with a reason; what was shown stays', async () => {
    const before = (await sheet()).ownPicture!.id
    await bring('broken.png', Buffer.from('no picture at all'))
    const { ownPicture, pendingPicture } = await sheet()
    expect(ownPicture!.id).toBe(before)
    expect(pendingPicture).toMatchObject({ state: 'refused', fileName: 'broken.png', reason: expect.stringContaining('decode') })
    await setOwnPictures(work, world.lead, { ids: [pendingPicture!.id], isDropped: true })
    expect((await sheet()).pendingPicture).toBeNull()
  })

  it("another takes its place; the rig's comes back for many at once, and can be undone", async () => {
    const first = (await sheet()).ownPicture!.id
    await bring(
      'dark.png',
      await sharp({ create: { width: 800, height: 800, channels: 3, background: '#060606' } })
        .png()
        .toBuffer(),
    )
    const [listed, ...more] = await listOwnPictures(world.context.db, world.lead)
    expect(more).toEqual([])
    expect(listed).toMatchObject({ code, fileName: 'dark.png' })
    expect(listed.id).not.toBe(first)
    expect(listed.faults).toEqual(expect.arrayContaining(['aspect', 'dark']))
    expect(listed.score).toBeLessThan(60)
    await setOwnPictures(work, world.lead, { ids: [listed.id], isDropped: true })
    expect(await chip()).toMatchObject({ isOwnPicture: false })
    expect(await listOwnPictures(world.context.db, world.lead)).toEqual([])
    await setOwnPictures(work, world.lead, { ids: [listed.id], isDropped: false })
    expect((await sheet()).ownPicture!.id).toBe(listed.id)
  })

  it('goes with its version: a new one begins with what the rig renders', async () => {
    await editItem(work, world.lead, itemId, { widthMm: 450 })
    expect((await sheet()).ownPicture).toBeNull()
    expect((await getSheet(world.pool, world.lead, code, 1)).ownPicture).not.toBeNull()
  })

  it('is set by leads only, and seen by those who see the item', async () => {
    const { db } = world.context
    await expect(bring('x.jpg', null, world.insider)).rejects.toMatchObject({ code: 'notAllowed' })
    await expect(setOwnPictures(work, world.insider, { ids: [1], isDropped: true })).rejects.toMatchObject({ code: 'notAllowed' })
    await expect(setOwnPictures(work, world.lead, { ids: [9999], isDropped: true })).rejects.toMatchObject({ code: 'notFound' })
    await expect(getOwnPictureFile(db, world.artist, 1)).rejects.toMatchObject({ code: 'notFound' })
    await expect(takeDeliveredPicture(work, world.lead, itemId, 'f'.repeat(64))).rejects.toMatchObject({ code: 'notFound' })
    expect(await listOwnPictures(db, world.artist)).toEqual([])
  })
})
