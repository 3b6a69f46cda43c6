import { and, desc, eq, sql } from 'drizzle-orm'
import type { z } from 'zod'
import { listRefs } from '#core/mock-up/materials/list-refs'
import { replaceRef } from '#core/mock-up/materials/uses'
import { listShown, sceneOfShot } from '#core/mock-up/materials/variants'
import { applyChange } from '#core/mock-up/scene/change'
import type { ItemRef, Scene, Shot } from '#core/mock-up/scene/scene'
import { RENDERER_REVISION } from '#core/render/pictures/preview'
import type { Reference } from '#files/mock-ups/write-mock-up'
import { PICTURE_FILES, type PictureFormat } from '#shared/contracts/compare.contract'
import type { MockUpPicture, orderPicturesSchema, SaveMockUp } from '#shared/contracts/mock-ups.contract'
import type { Actor } from '../platform/access'
import type { ComputePool } from '../platform/compute/compute-pool'
import type { Context } from '../platform/context'
import type { Connection } from '../platform/database'
import { notFound, ProblemError } from '../platform/problem'
import { MOCK_UP_QUEUES } from '../platform/queue'
import { mockUpInterimPictures, mockUpPictures } from '../tables/mock-up.table'
import { people } from '../tables/people.table'
import { readInterim } from './interim-pictures'
import { getMockUpRow, type MockUpRow, pictureUrl, tellPicture } from './mock-ups'
import { openSources } from './open-sources'
import { resolveRefs } from './resolve-items'

const MOST_PICTURES = 120
/** Somebody waits for a draft; a final is looked at later. */
const PRIORITY = { draft: 30, final: 20 } as const

/** Orders pictures of a mock-up as it is now. Each keeps all that it is made of, so that it can be made again. */
export async function orderPictures(
  context: Context,
  actor: Actor,
  id: number,
  { shots, skies, choice, quality, longerPx, newer }: z.output<typeof orderPicturesSchema>,
  priority: number = PRIORITY[quality],
): Promise<number[]> {
  const { db, queue } = context
  const versions = newer.length > 0 ? await findNewer(context, actor, (await getMockUpRow(db, actor, id)).scene, newer) : null
  return db.transaction(async tx => {
    const row = await getMockUpRow(tx, actor, id)
    const updated = versions && withNewer(row.scene, versions)
    const wanted = shots.flatMap(shot => {
      const own = row.scene.shots[shot]
      if (!own) throw new ProblemError('badRequest', 'One of these shots is not there any more; nothing was ordered.')
      return listWearings(row.scene, own, choice).flatMap(wearing =>
        (skies.length > 0 ? skies : [own.sky]).flatMap(sky => {
          const before = underSky(row.scene, { id: shot, wearing, sky })
          if (!updated) return [before]
          const after = underSky(updated.scene, { id: shot, wearing, sky })
          return [before, { ...after, variantNames: [...after.variantNames, ...updated.names] }]
        }),
      )
    })
    if (wanted.length > MOST_PICTURES)
      throw new ProblemError('badRequest', `That would be ${wanted.length} pictures; order ${MOST_PICTURES} at most at once.`)
    const made = await tx
      .insert(mockUpPictures)
      .values(
        wanted.map(w => ({
          ...w,
          mockUpId: id,
          personId: actor.id,
          quality,
          longerPx: quality === 'final' ? longerPx : null,
          rendererRevision: RENDERER_REVISION,
        })),
      )
      .returning({ id: mockUpPictures.id })
    const jobs = made.map(m => ({ pictureId: m.id }))
    await queue.send(tx, MOCK_UP_QUEUES[quality], jobs, priority)
    await tellPicture(tx, row, made[0].id)
    return made.map(m => m.id)
  })
}

/** The approved versions of items that a scene has in older ones, by code. @throws ProblemError where none of them is newer */
async function findNewer(context: Context, actor: Actor, scene: Scene, codes: readonly string[]): Promise<Map<string, ItemRef>> {
  const wanted = new Set(codes)
  const found = new Map(
    (await resolveRefs(context, actor, listRefs(scene))).flatMap(({ ref, newer }) =>
      newer && wanted.has(ref.code) ? [[ref.code, newer] as const] : [],
    ),
  )
  if (found.size === 0) throw new ProblemError('badRequest', 'None of these has a newer version any more; nothing was ordered.')
  return found
}

/** A scene with other versions of items in place of those that it has. */
function withNewer(scene: Scene, found: ReadonlyMap<string, ItemRef>): { scene: Scene; names: string[] } {
  let updated = scene
  for (const [code, to] of found) updated = applyChange(updated, replaceRef(updated, code, to)).scene
  return { scene: updated, names: [...found].map(([code, { version }]) => `${code}: version ${version}`) }
}

/** One draft of a shot of a mock-up as it would be: of another scene than its own. */
export async function orderShot(
  { tx, queue }: { tx: Connection; queue: Context['queue'] },
  actor: Actor,
  mockUp: MockUpRow,
  scene: Scene,
  shot: string,
  names: readonly string[],
): Promise<number> {
  const own = scene.shots[shot]
  if (!own) throw new ProblemError('badRequest', 'This shot is not there any more; nothing was ordered.')
  const wanted = underSky(scene, { id: shot, wearing: own.variants, sky: own.sky })
  const [made] = await tx
    .insert(mockUpPictures)
    .values({
      ...wanted,
      variantNames: [...wanted.variantNames, ...names],
      mockUpId: mockUp.id,
      personId: actor.id,
      quality: 'draft',
      rendererRevision: RENDERER_REVISION,
    })
    .returning({ id: mockUpPictures.id })
  await queue.send(tx, MOCK_UP_QUEUES.draft, [{ pictureId: made.id }], PRIORITY.draft)
  await tellPicture(tx, mockUp, made.id)
  return made.id
}

/** Which variants a shot is to be seen with: its own, or each of a choice. */
function listWearings(scene: Scene, { variants }: Shot, choice: string | null): Shot['variants'][] {
  if (choice === null) return [variants]
  const found = scene.choices[choice]
  if (!found) throw new ProblemError('badRequest', 'This choice is not there any more; nothing was ordered.')
  return found.variants.map((_, k) => ({ ...variants, [choice]: k }))
}

/** One shot under a sky, in its variants, with nothing of the scene that it does not show. */
function underSky(scene: Scene, { id, wearing, sky }: { id: string; wearing: Shot['variants']; sky: string | null }) {
  if (sky !== null && !scene.skies[sky])
    throw new ProblemError('badRequest', 'One of these skies is not there any more; nothing was ordered.')
  const own = scene.shots[id]
  return {
    scene: {
      ...sceneOfShot(scene, { variants: wearing }),
      skies: sky === null ? {} : { [sky]: scene.skies[sky] },
      shots: { [id]: { ...own, sky, variants: {} } },
      choices: {},
      // By name for its masks; what else they may wear is not in the picture.
      types: Object.fromEntries(Object.entries(scene.types).map(([type, of]) => [type, { ...of, finish: null }])),
    },
    shot: id,
    shotName: own.name,
    skyName: sky === null ? null : scene.skies[sky].name,
    variantNames: listShown(scene, { variants: wearing }).map(({ name, worn }) => `${name}: ${worn?.material.code ?? 'its own'}`),
  }
}

export async function listPictures({ db }: Context, actor: Actor, id: number): Promise<MockUpPicture[]> {
  await getMockUpRow(db, actor, id)
  const rows = await db
    .select({ picture: mockUpPictures, person: people.name, interim: mockUpInterimPictures.number })
    .from(mockUpPictures)
    .innerJoin(people, eq(people.id, mockUpPictures.personId))
    .leftJoin(mockUpInterimPictures, eq(mockUpInterimPictures.pictureId, mockUpPictures.id))
    .where(eq(mockUpPictures.mockUpId, id))
    .orderBy(desc(mockUpPictures.id))
    .limit(300)
  const inHand = rows.some(r => r.picture.state === 'rendering') ? await listInHand(db) : new Set<number>()
  return rows
    .filter(r => r.picture.state !== 'cancelled')
    .map(({ picture: p, person, interim }) => ({
      id: p.id,
      shot: p.shot,
      shotName: p.shotName,
      skyName: p.skyName,
      variantNames: p.variantNames,
      quality: p.quality,
      // Broken off, it waits for its turn to be gone on with.
      state: p.state === 'rendering' && !inHand.has(p.id) ? 'waiting' : p.state,
      share: p.share,
      error: p.stats?.achievedError ?? p.error,
      secondsLeft: p.secondsLeft,
      url: p.hash === null ? null : pictureUrl(p.id),
      linearUrl: p.linearHash === null ? null : `${pictureUrl(p.id)}/linear`,
      interimUrl: interim !== null && p.hash === null ? `${pictureUrl(p.id)}/interim?number=${interim}` : null,
      width: p.stats?.width ?? null,
      height: p.stats?.height ?? null,
      seconds: p.stats?.seconds ?? null,
      message: p.message,
      person,
      orderedAt: p.orderedAt.toISOString(),
    }))
}

/** Pictures that a worker has in hand. */
async function listInHand(db: Connection): Promise<Set<number>> {
  const { rows } = await db.execute<{ key: string }>(sql`
    select singleton_key as key from pgboss.job where name = any(${sql.param(Object.values(MOCK_UP_QUEUES))}::text[]) and state = 'active'`)
  return new Set(rows.map(r => Number(r.key)))
}

/** Ends a rendering at once, or takes a picture out of the list. */
export async function cancelPicture({ db }: Context, actor: Actor, id: number, pictureId: number): Promise<void> {
  await db.transaction(async tx => {
    const row = await getMockUpRow(tx, actor, id)
    const [cancelled] = await tx
      .update(mockUpPictures)
      .set({ state: 'cancelled' })
      .where(and(eq(mockUpPictures.id, pictureId), eq(mockUpPictures.mockUpId, id)))
      .returning({ id: mockUpPictures.id })
    if (!cancelled) throw notFound('This picture')
    await tellPicture(tx, row, pictureId)
  })
}

async function getPictureRow(db: Connection, actor: Actor, pictureId: number) {
  const [picture] = await db.select().from(mockUpPictures).where(eq(mockUpPictures.id, pictureId))
  if (!picture) throw notFound('This picture')
  const mockUp = await getMockUpRow(db, actor, picture.mockUpId)
  return { picture, mockUp }
}

/** Hash of a picture's bytes. */
export async function getPictureFile(
  db: Connection,
  actor: Actor,
  pictureId: number,
  which: 'display' | 'linear',
): Promise<string> {
  const { picture } = await getPictureRow(db, actor, pictureId)
  const hash = which === 'linear' ? picture.linearHash : picture.hash
  if (!hash) throw new ProblemError('notReady', 'This picture is not rendered yet.')
  return hash
}

/** A picture as far as it has come, as WebP; null where nothing is to be seen of it. Who asks may not know yet that it is ended. */
export async function getInterimFile(
  db: Connection,
  actor: Actor,
  pictureId: number,
): Promise<{ bytes: Buffer | null; isEnded: boolean }> {
  const { picture } = await getPictureRow(db, actor, pictureId)
  return { bytes: await readInterim(db, pictureId), isEnded: picture.hash !== null }
}

/** A picture as a file, with what it shows and how it is encoded in its metadata. */
export async function savePicture(
  { db, storage, compute }: Context & { compute: ComputePool },
  actor: Actor,
  pictureId: number,
  format: PictureFormat,
): Promise<{ bytes: Uint8Array; fileName: string }> {
  const { picture, mockUp } = await getPictureRow(db, actor, pictureId)
  if (!picture.linearHash) throw new ProblemError('notReady', 'This picture is not rendered yet.')
  const bytes = await compute.run('savePictures', {
    diskPaths: [await storage.localPath(picture.linearHash)],
    format,
    captions: [captionOf(picture, mockUp)],
  })
  return { bytes, fileName: `${stemOf(picture, mockUp)}.${PICTURE_FILES[format].ending}` }
}

type PictureRow = typeof mockUpPictures.$inferSelect

function captionOf(picture: PictureRow, { title }: MockUpRow): string {
  const { id, shotName, skyName, variantNames, quality, seed, rendererRevision } = picture
  const caption = [title, shotName, skyName, ...variantNames, quality].filter(Boolean).join(', ')
  return `${caption}; picture ${id}, seed ${seed}, renderer ${rendererRevision}`
}

const stemOf = ({ id, shotName }: PictureRow, { title }: MockUpRow): string => toStem(`${title}-${shotName}-${id}`)

/** A picture with what is where in it: base colour, normal, depth, and masks by name, of the scene that it was rendered of. */
export async function savePasses(
  context: Context & { compute: ComputePool },
  actor: Actor,
  pictureId: number,
): Promise<{ bytes: Uint8Array; fileName: string }> {
  const { db, storage, compute } = context
  const { picture, mockUp } = await getPictureRow(db, actor, pictureId)
  const { scene, shot, quality, seed, linearHash } = picture
  if (!linearHash) throw new ProblemError('notReady', 'This picture is not rendered yet.')
  const bytes = await compute.run('passes', {
    ...{ scene, shot, quality, seed },
    sources: await openSources(context, actor, scene),
    linearPath: await storage.localPath(linearHash),
    caption: captionOf(picture, mockUp),
  })
  return { bytes, fileName: `${stemOf(picture, mockUp)}-passes.exr` }
}

/** A mock-up as a file, as it is now. @throws FileError where it is more than the form can hold */
export async function saveMockUp(
  context: Context & { compute: ComputePool },
  actor: Actor,
  id: number,
  { form, texture, detail }: SaveMockUp,
): Promise<{ bytes: Uint8Array; fileName: string }> {
  const { title, scene } = await getMockUpRow(context.db, actor, id)
  const sources = await openSources(context, actor, scene)
  const references = form === 'references' ? await listReferences(context, actor, scene) : null
  const given = {
    scene,
    sources,
    maxTexturePx: Number(texture),
    isLight: detail === 'light',
    form,
    name: toStem(title),
    references,
  }
  const { path, bytes } = await context.compute.run('writeMockUp', given)
  return { bytes, fileName: path }
}

/** Items that a scene shows, as a file refers to them; of what the asker may not see nothing is said. */
async function listReferences(context: Context, actor: Actor, scene: Scene): Promise<Reference[]> {
  const shown = await resolveRefs(context, actor, listRefs(scene))
  return shown
    .filter(item => item.state !== 'hidden')
    .map(({ ref: { code, version }, name, kind, files }) => ({
      ...{ code, version, name, kind },
      address: `/items/${code}?version=${version}`,
      files: files.map(({ path, role, hash, size }) => ({ path, role, sha256: hash, bytes: size })),
    }))
}

/** A title as a part of a file's name. */
export const toStem = (text: string): string => text.toLowerCase().replace(/[^a-z0-9]+/g, '-')
