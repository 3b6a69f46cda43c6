import { and, eq, sql } from 'drizzle-orm'
import { FileError } from '#core/findings/failure'
import type { SceneLook } from '#files/audits/read-looks'
import { loadRigBook } from '../house/rig-book'
import { openSceneFiles } from '../intake/scene-files'
import { findVersionSource } from '../items/version-source'
import { findLikeLook } from '../library/wall'
import { type Actor, getPerson } from '../platform/access'
import type { Connection } from '../platform/database'
import type { Jobs } from '../platform/queue'
import { storeBytes } from '../platform/storage/stored-files'
import type { WorkContext } from '../platform/work-context'
import { type AuditPicture, sceneAudits } from '../tables/audit.table'
import { items, versions } from '../tables/library.table'
import { type AuditRow, tellAudit } from './audits'
import { type ComparedVersion, loadPrintedVersions } from './printed-versions'

/** Looks of foreign things are searched for so often at most; the rest says that it is foreign. */
const MOST_SEARCHED = 80
/** Altered materials that are rendered without being asked for. */
const MOST_RENDERED = 24
/** Reading takes about as long as getting to know the library, where that is new. */
const READING_FROM = 0.5

/** Says what everything in a scene is to the library; then renders what was altered. Broken off, it is begun again. */
export async function auditSceneJob(context: WorkContext, { auditId }: Jobs['audit-scene']): Promise<void> {
  const { db } = context
  const isThis = eq(sceneAudits.id, auditId)
  const [row] = await db.update(sceneAudits).set({ state: 'reading', step: '', share: 0 }).where(isThis).returning()
  if (!row) return
  const say = sayOften(context, row)
  const actor = await getPerson(db, row.personId)
  try {
    if (!actor) throw new FileError('notFound', 'Whoever asked for this is not a member any more.')
    await say('Getting to know the library', 0)
    const files = await openSceneFiles(context, row.batchId)
    const stamped = await context.exportPool.run('listStamps', { files })
    const { versions: compared, notCompared } = await loadPrintedVersions(context, actor, { ...row, stamped }, share =>
      say('Getting to know the library', share * READING_FROM),
    )
    await say('Reading the scene', READING_FROM)
    const onProgress = (share: number) => {
      void say('Reading the scene', READING_FROM + share * (1 - READING_FROM)).catch(() => {})
    }
    const { audit, looks } = await context.exportPool.run('auditScene', { files, versions: compared }, { onProgress })
    const nearest = await findNearest(context, actor, looks)
    const result = { ...audit, nearest, replacements: listReplacements(compared), comparedWith: compared.length, notCompared }
    await db.update(sceneAudits).set({ state: 'ready', step: '', share: 1, message: null, result }).where(isThis)
    await context.queue.send(db, 'picture-audit', [{ auditId }])
    await tellAudit(db, row)
  } catch (error) {
    if (!(error instanceof FileError)) throw error
    await db.update(sceneAudits).set({ state: 'failed', step: '', message: error.message }).where(isThis)
    await tellAudit(db, row)
  }
}

const SAY_EVERY_MS = 500

function sayOften({ db }: WorkContext, row: AuditRow) {
  let said = 0
  return async (step: string, share: number): Promise<void> => {
    if (performance.now() - said < SAY_EVERY_MS) return
    said = performance.now()
    await db
      .update(sceneAudits)
      .set({ step, share })
      .where(sql`${sceneAudits.id} = ${row.id} and ${sceneAudits.state} = 'reading'`)
    await tellAudit(db, row)
  }
}

/** Of each item what may be put in its places: the version that is pinned, of what is not pinned the approved. */
function listReplacements(compared: readonly ComparedVersion[]): Record<string, { version: number; inputKey: string }> {
  const isUsable = ({ kind, print }: ComparedVersion) => kind !== 'light' || print.light !== null
  const usable = compared.filter(v => v.version === (v.pinned ?? v.approved) && isUsable(v))
  return Object.fromEntries(usable.map(({ code, version, inputKey }) => [code, { version, inputKey }]))
}

/** Approved items that look most like what is foreign. */
async function findNearest(context: WorkContext, actor: Actor, looks: Record<number, SceneLook>) {
  const nearest: Record<string, { code: string; distance: number }[]> = {}
  for (const [index, look] of Object.entries(looks).slice(0, MOST_SEARCHED)) {
    const found = await findLikeLook(context, actor, look, 3)
    nearest[index] = found.map(({ code, unlike }) => ({ code, distance: Math.round(unlike * 1000) / 1000 }))
  }
  return nearest
}

/** Renders altered materials beside the library's; a job of its own, so that the next scene need not wait for it. */
export async function pictureAuditJob(context: WorkContext, { auditId }: Jobs['picture-audit']): Promise<void> {
  const [row] = await context.db.select().from(sceneAudits).where(eq(sceneAudits.id, auditId))
  const wanted = row?.result?.materials.filter(m => m.class === 'altered' && m.ofModel === null).slice(0, MOST_RENDERED) ?? []
  if (wanted.length === 0) return
  const book = await loadRigBook(context.db)
  const files = await openSceneFiles(context, row.batchId)
  const pictures: Record<string, AuditPicture> = {}
  for (const { index, code, version } of wanted) {
    const inputKey = await findInputKey(context.db, code, version)
    const found = inputKey === null ? null : await findVersionSource(context, inputKey)
    if (!found) continue
    try {
      const rig = book.rigFor(found.category)
      const [made] = await context.previewPool.run('renderAltered', { files, altered: [{ index, source: found.source }], rig })
      if (!made) continue
      const [own, library] = [
        await storeBytes(context, made.own, 'image/webp'),
        await storeBytes(context, made.library, 'image/webp'),
      ]
      pictures[index] = { own: own.hash, library: library.hash, flipMean: made.flipMean, deltaE00: made.deltaE00 }
      await context.db.update(sceneAudits).set({ pictures }).where(eq(sceneAudits.id, row.id))
      await tellAudit(context.db, row)
    } catch (error) {
      // A texture that does not read was told already; the others have their pictures.
      if (!(error instanceof FileError)) throw error
    }
  }
}

async function findInputKey(db: Connection, code: string | null, version: number | null): Promise<string | null> {
  if (code === null || version === null) return null
  const [found] = await db
    .select({ inputKey: versions.inputKey })
    .from(versions)
    .innerJoin(items, eq(items.id, versions.itemId))
    .where(and(eq(items.code, code), eq(versions.number, version)))
  return found?.inputKey ?? null
}
