import { rm } from 'node:fs/promises'
import { join } from 'node:path'
import { and, eq, sql } from 'drizzle-orm'
import { FileError } from '#core/findings/failure'
import { getPerson } from '../platform/access'
import { Stopped } from '../platform/compute/compute-pool'
import type { Jobs } from '../platform/queue'
import { storeBytes } from '../platform/storage/stored-files'
import type { WorkContext } from '../platform/work-context'
import { mockUpPictures, mockUps } from '../tables/mock-up.table'
import { forgetInterim, keepInterim } from './interim-pictures'
import { tellPicture } from './mock-ups'
import { openSources } from './open-sources'

const LOOK_EVERY_MS = 1000

/** Renders a picture of a mock-up. Broken off, it is gone on with and becomes the same to the pixel; cancelled, it ends within a second. */
export async function renderMockUpJob(
  context: WorkContext,
  { pictureId }: Jobs['draft-mock-up' | 'render-mock-up'],
): Promise<void> {
  const { db } = context
  const isThis = eq(mockUpPictures.id, pictureId)
  const isWanted = and(isThis, sql`${mockUpPictures.state} in ('waiting', 'rendering')`)
  const [picture] = await db
    .update(mockUpPictures)
    .set({ state: 'rendering', share: 0, error: null, secondsLeft: null })
    .where(isWanted)
    .returning()
  const keepIn = join(context.temporaryFolder, `picture-${pictureId}.tiles`)
  /** Looks at it are kept one after the other, and none after the picture itself or its end. */
  let interim = Promise.resolve()
  const forget = async () => {
    await interim
    await rm(keepIn, { force: true })
    await forgetInterim(db, pictureId)
  }
  if (!picture) return forget()
  const [mockUp] = await db.select().from(mockUps).where(eq(mockUps.id, picture.mockUpId))
  await tellPicture(db, mockUp, pictureId)
  const { scene, shot, quality, longerPx, seed } = picture
  const person = await getPerson(db, picture.personId)
  const sources = person ? await openSources(context, person, scene) : {}
  const stop = new AbortController()
  let [share, error, secondsLeft]: [number, number | null, number | null] = [0, null, null]
  const look = async () => {
    const still = await db
      .update(mockUpPictures)
      .set({ share, error, secondsLeft })
      .where(isWanted)
      .returning({ id: mockUpPictures.id })
    if (still.length === 0) stop.abort()
    else await tellPicture(db, mockUp, pictureId)
  }
  const showInterim = async (bytes: Uint8Array) => {
    await keepInterim(db, pictureId, bytes)
    await tellPicture(db, mockUp, pictureId)
  }
  const watch = setInterval(() => void look().catch(() => {}), LOOK_EVERY_MS)
  try {
    const { bytes, linear, stats } = await context.previewPool.run(
      'mockUp',
      { scene, shot, quality, longerPx, seed, sources, keepIn },
      {
        // Where more turns out to be needed than was thought, it stands; the time that is left says so.
        onProgress: (done, errorLeft, left) => {
          ;[share, error, secondsLeft] = [Math.max(share, done), errorLeft, left]
        },
        onInterim: picture => {
          interim = interim.then(() => showInterim(picture)).catch(() => {})
        },
        stop: stop.signal,
      },
    )
    const stored = await storeBytes(context, bytes, 'image/webp')
    const storedLinear = await storeBytes(context, linear, 'image/x-exr')
    await db
      .update(mockUpPictures)
      .set({
        state: 'ready',
        share: 1,
        hash: stored.hash,
        linearHash: storedLinear.hash,
        stats,
        message: sayFailures(stats.failures),
      })
      .where(isWanted)
  } catch (problem) {
    if (problem instanceof Stopped) return stop.signal.aborted ? forget() : undefined
    if (!(problem instanceof FileError)) throw problem
    await db.update(mockUpPictures).set({ state: 'failed', message: problem.message }).where(isWanted)
  } finally {
    clearInterval(watch)
  }
  await forget()
  await tellPicture(db, mockUp, pictureId)
}

function sayFailures(failures: Record<string, string>): string | null {
  const reasons = Object.values(failures)
  if (reasons.length === 0) return null
  return `${reasons.length === 1 ? 'One thing is' : `${reasons.length} things are`} not in the picture. ${reasons[0]}`
}
